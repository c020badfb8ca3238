#!/bin/sh
# The full example on the demo data: single questions first, then the whole brief, which leaves the
# report, the workbook, the notebook, tables and pictures in demo-output/.
set -e
./longladder standings --brief inst/extdata/longladder.yml --each account --top 10 \
  --when 'this year to date' --against 'year before' --width 110
echo
./longladder score --brief inst/extdata/longladder.yml --each rep --metrics revenue,margin_rate,orders \
  --weights 3,2,1 --when 2025 --width 110
echo
./longladder whitespace --brief inst/extdata/longladder.yml --each account --product family \
  --with-fields rep --width 110
echo
./longladder drill --brief inst/extdata/longladder.yml --metrics revenue --when 2026-Q2 --width 110
echo
# Without pandoc everything but the report is made, and it is said.
./longladder run inst/extdata/longladder.yml --out demo-output || ! command -v pandoc >/dev/null 2>&1
