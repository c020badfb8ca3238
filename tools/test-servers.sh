#!/bin/sh
# Tests against real servers: installs PostgreSQL, ClickHouse, their drivers and DuckDB's library where
# they are missing (on Debian, as root), starts the servers on free loopback ports, runs the command
# given with their addresses in the environment, and stops them whatever happens.
set -e
cd "$(dirname "$0")/.."
root=$(pwd)
mkdir -p build
say() { echo "test-servers: $*"; }

debs=""
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || debs="$debs postgresql libpq-dev"
command -v clickhouse-server >/dev/null 2>&1 || debs="$debs clickhouse-server clickhouse-client"
[ -f /usr/include/postgresql/libpq-fe.h ] || debs="$debs libpq-dev"
missing() { Rscript --no-init-file -e 'p <- commandArgs(TRUE); cat(p[!vapply(p, function(x) nzchar(system.file(package = x)), TRUE)])' "$@"; }
drivers=$(missing RPostgres RClickhouse adbcdrivermanager adbi)
if [ -n "$debs$drivers" ]; then
  if [ "$(id -u)" != 0 ] || ! command -v apt-get >/dev/null 2>&1; then
    say "these are missing, and are installed for root on Debian only:$debs $drivers" >&2
    exit 1
  fi
  # What the drivers need comes built.
  needs=$(missing dplyr dbplyr bit64 hms blob lubridate cpp11)
  for package in $needs; do debs="$debs r-cran-$(echo "$package" | tr A-Z a-z)"; done
  say "installing Debian's packages:$debs"
  apt-get update -qq >/dev/null
  [ -z "$debs" ] || DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends g++ make $debs >build/apt.log 2>&1 || { tail -5 build/apt.log; exit 1; }
fi
if [ -n "$drivers" ]; then
  say "installing from CRAN: $drivers"
  Rscript --no-init-file tools/install-cran.R $drivers >build/drivers.log 2>&1 || true
  drivers=$(missing RPostgres RClickhouse adbcdrivermanager adbi)
  [ -z "$drivers" ] || { tail -20 build/drivers.log; say "could not install: $drivers" >&2; exit 1; }
fi
# DuckDB's own R package takes long to build: the tests use its library through a driver interface.
duckdb=$root/build/duckdb/package/libduckdb.so
if [ ! -f "$duckdb" ]; then
  if ! command -v npm >/dev/null 2>&1; then
    apt-get update -qq >/dev/null
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends npm >build/apt.log 2>&1 || { tail -5 build/apt.log; exit 1; }
  fi
  say "fetching DuckDB's library"
  mkdir -p build/duckdb
  (cd build/duckdb && npm pack --silent @duckdb/node-bindings-linux-x64 >/dev/null && tar xf ./*.tgz && rm -f ./*.tgz)
fi

folder=$(mktemp -d -t longladder-servers.XXXXXX)
trap 'tools/servers stop "$folder"; sleep 1; rm -rf "$folder"' EXIT
trap 'exit 1' INT TERM
tools/servers start "$folder"
. "$folder/env"
LONGLADDER_TEST_DUCKDB=$duckdb LONGLADDER_TEST_SERVERS=1 TZ=UTC
export LONGLADDER_TEST_DUCKDB LONGLADDER_TEST_SERVERS TZ
"$@"
