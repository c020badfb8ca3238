#!/bin/sh
# R CMD check of the built package, in build/check.
set -e
mkdir -p build/check
rm -f build/check/*.tar.gz
cd build/check
R CMD build ../.. >/dev/null
_R_CHECK_FORCE_SUGGESTS_=false R CMD check --no-manual longladder_*.tar.gz
