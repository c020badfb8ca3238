#!/bin/sh
# The tests of the kernels under the address and undefined-behaviour sanitizers, then under valgrind.
# Fails when any of them reports something in our library, or a test fails.
#
#   sh tools/sanitize.sh              both
#   sh tools/sanitize.sh sanitizers   or valgrind
set -eu
cd "$(dirname "$0")/.."
root=$(pwd)
what=${1:-both}
studies="drill resamples score associations lapsed sets detail distribution holders"
words="core $studies source-file book-columns book-generated save-whole"
folder=$root/build/sanitize
mkdir -p "$folder"

# build LIBRARY FLAGS: the package with other flags than usual, from a copy without its objects.
build() {
  rm -rf "$1" "$folder/source"
  mkdir -p "$1" "$folder/source"
  cp -r DESCRIPTION NAMESPACE LICENSE R src inst exec man "$folder/source"
  rm -f "$folder"/source/src/*.o "$folder"/source/src/*.so
  # With its symbols, so that a report names the line.
  printf 'CXX_STD = CXX17\nPKG_LIBS = -pthread\n' > "$folder/source/src/Makevars"
  printf 'CXX17FLAGS = -g -fno-omit-frame-pointer %s\nLDFLAGS = %s\n' "$2" "$3" > "$folder/Makevars"
  R_MAKEVARS_USER="$folder/Makevars" R CMD INSTALL --no-test-load --no-byte-compile --no-docs --library="$1" "$folder/source" \
    > "$folder/build.log" 2>&1 || { tail -20 "$folder/build.log"; exit 1; }
}

if [ "$what" != valgrind ]; then
  echo "sanitize: building with the address and undefined-behaviour sanitizers"
  flags="-fsanitize=address,undefined"
  build "$folder/library" "-O1 $flags" "$flags"
  echo "sanitize: testing ($words)"
  preload="$(g++ -print-file-name=libasan.so) $(g++ -print-file-name=libubsan.so) $(g++ -print-file-name=libstdc++.so)"
  # R itself frees nothing at its end, so leaks are not looked for.
  LD_PRELOAD="$preload" ASAN_OPTIONS=detect_leaks=0:halt_on_error=0 UBSAN_OPTIONS=print_stacktrace=1 R_LIBS="$folder/library" TZ=UTC \
    Rscript --no-init-file tools/run-tests.R $words > "$folder/sanitizers.log" 2>&1 || { tail -40 "$folder/sanitizers.log"; exit 1; }
  if grep -n "runtime error:\|ERROR: AddressSanitizer" "$folder/sanitizers.log"; then
    echo "sanitize: see build/sanitize/sanitizers.log" >&2
    exit 1
  fi
  tail -1 "$folder/sanitizers.log"
fi

if [ "$what" != sanitizers ]; then
  if ! command -v valgrind >/dev/null 2>&1; then
    [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1 || { echo "sanitize: valgrind is missing" >&2; exit 1; }
    echo "sanitize: installing valgrind"
    apt-get update -qq >/dev/null && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends valgrind >/dev/null
  fi
  echo "sanitize: building for valgrind"
  build "$folder/plain" "-O1" ""
  echo "sanitize: testing under valgrind, which takes about an hour"
  # Only what goes through our library counts: R's own byte tricks are no concern of ours.
  R_LIBS="$folder/plain" TZ=UTC LONGLADDER_FEW_LINES=1 R -q --no-echo --no-init-file -d "valgrind --log-file=$folder/valgrind.log" \
    -f tools/run-tests.R --args core source-file $studies > "$folder/valgrind-tests.log" 2>&1 || { tail -40 "$folder/valgrind-tests.log"; exit 1; }
  if grep -n "longladder.so" "$folder/valgrind.log"; then
    echo "sanitize: see build/sanitize/valgrind.log" >&2
    exit 1
  fi
  grep "ERROR SUMMARY" "$folder/valgrind.log" | tail -1
  tail -1 "$folder/valgrind-tests.log"
fi
echo "sanitize: clean"
