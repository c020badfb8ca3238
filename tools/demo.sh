#!/bin/sh
# The full example on the demo data; leaves a table, a workbook and a picture in demo-output/.
set -e
mkdir -p demo-output
./longladder standings --brief inst/extdata/longladder.yml --each rep \
  --metrics revenue,margin_rate,orders,average_order --top 10 \
  --out demo-output/reps.csv --out demo-output/reps.xlsx --out demo-output/reps.png
echo
./longladder standings --brief inst/extdata/longladder.yml --each rep --within territory --top 3 \
  --out demo-output/reps-by-territory.png
echo
./longladder standings --brief inst/extdata/longladder.yml --each account_name --top 10 \
  --when 'this year to date' --against 'year before' \
  --out demo-output/accounts.xlsx --out demo-output/accounts.png
echo
./longladder check --brief inst/extdata/longladder.yml --out demo-output/check.xlsx --out demo-output/check.png
echo
./longladder trend --brief inst/extdata/longladder.yml --metrics revenue,margin_rate --every quarter \
  --out demo-output/trend.png
echo
./longladder score --brief inst/extdata/longladder.yml --each rep --metrics revenue,margin_rate,orders \
  --weights 3,2,1 --when 2025 --out demo-output/score.png
echo
./longladder quadrants --brief inst/extdata/longladder.yml --each account --metrics revenue,margin_rate \
  --forward high,low --width 100 --out demo-output/quadrants.xlsx --out demo-output/quadrants.png | head -5
echo
./longladder lapsed --brief inst/extdata/longladder.yml --each account --show account_name,contact,rep --top 10 \
  --width 110 --out demo-output/lapsed.xlsx --out demo-output/lapsed.png
echo
./longladder whitespace --brief inst/extdata/longladder.yml --each account --product family \
  --show account_name,rep --width 110 --out demo-output/whitespace.xlsx --out demo-output/whitespace.png
echo
./longladder bridge --brief inst/extdata/longladder.yml --metrics revenue --by territory --when 2026-Q2 \
  --width 110 --out demo-output/bridge.xlsx --out demo-output/bridge.png
echo
./longladder drill --brief inst/extdata/longladder.yml --metrics revenue --when 2026-Q2 \
  --width 110 --out demo-output/drill.xlsx --out demo-output/drill.png
echo
echo "in demo-output/: $(ls demo-output | tr '\n' ' ')"
