#!/bin/sh
# setup.sh GROUP...: installs what the groups of tools/packages.txt name and is missing, so that each
# target of the Makefile brings what it needs and no more. Debian's built packages where R is
# Debian's and we are root, from CRAN otherwise; pandoc for reports and a browser for tests where apt
# can. Says what it does; quick when nothing is missing.
set -e
groups=" $* "
wanted() { case "$groups" in *" $1 "*) return 0 ;; *) return 1 ;; esac; }
if ! command -v R >/dev/null 2>&1; then
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
    echo "setup: installing R"
    apt-get update -qq >/dev/null && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends r-base-dev >/dev/null
  else
    echo "setup: R is missing; install R 4.1 or later, with its compilers" >&2
    exit 1
  fi
fi
# Reports are made with pandoc; a test opens them in a browser. Without them both are done without.
tools=""
if wanted report && ! command -v pandoc >/dev/null 2>&1; then tools="pandoc"; fi
if wanted test && ! command -v chromium >/dev/null 2>&1 && ! command -v google-chrome >/dev/null 2>&1; then
  tools="$tools chromium"
fi
if [ -n "$tools" ]; then
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
    echo "setup: installing" $tools
    apt-get update -qq >/dev/null
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $tools >build-setup.log 2>&1 || tail -5 build-setup.log
    rm -f build-setup.log
  else
    echo "setup: not found:" $tools "(reports need pandoc, their test a browser)"
  fi
fi
missing() {
  Rscript --no-init-file -e '
    lines <- grep("^#", readLines("tools/packages.txt"), value = TRUE, invert = TRUE)
    want <- sub("^\\S+ ", "", lines)[sub(" .*", "", lines) %in% commandArgs(TRUE)]
    cat(want[!vapply(want, function(p) nzchar(system.file(package = p)), TRUE)])' $groups
}
need=$(missing)
if [ -z "$need" ]; then
  echo "setup: every package is there"
  exit 0
fi
debian_r=$(dpkg -S "$(readlink -f "$(command -v R)")" 2>/dev/null | grep -c '^r-base-core' || true)
if [ "$debian_r" != 0 ] && [ "$(id -u)" = 0 ]; then
  apt-get update -qq >/dev/null
  # Only those that Debian has: one that it has not would make apt install none.
  debs=$(for p in $need; do echo "r-cran-$p"; done | tr 'A-Z' 'a-z' |
    while read -r deb; do apt-cache show "$deb" >/dev/null 2>&1 && echo "$deb" || true; done)
  # What drives the browser is built from CRAN: with what it needs from Debian, in a quarter of a minute.
  case " $need " in *" chromote "*)
    debs="$debs libssl-dev libcurl4-openssl-dev r-cran-curl r-cran-later r-cran-fastmap r-cran-processx r-cran-promises" ;;
  esac
  echo "setup: installing Debian's packages:" $debs
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends g++ make $debs >build-setup.log 2>&1 || { tail -5 build-setup.log; true; }
  rm -f build-setup.log
  need=$(missing)
fi
if [ -n "$need" ]; then
  echo "setup: installing from CRAN:" $need
  Rscript --no-init-file tools/install-cran.R $need
  need=$(missing)
  if [ -n "$need" ]; then
    echo "setup: could not install:" $need >&2
    exit 1
  fi
fi
