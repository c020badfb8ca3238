#!/bin/sh
# The pictures of docs/screenshots, 1280x800.
set -e
brief=inst/extdata/longladder.yml
out=docs/screenshots
mkdir -p $out
./longladder standings --brief $brief --each rep --metrics revenue,margin_rate,average_order --top 10 \
  --out $out/standings-metrics.png >/dev/null
./longladder crosstab --brief $brief --rows family --columns territory --metrics revenue,margin_rate \
  --out $out/crosstab.png >/dev/null
./longladder trend --brief $brief --metrics revenue,margin_rate,orders --when 2024-09-01/2026-09-16 \
  --out $out/trend.png >/dev/null
./longladder distribution --brief $brief --metrics revenue --each order_no --out $out/distribution.png >/dev/null
./longladder versus --brief $brief --each territory --names Moor,Fen --by family --out $out/versus.png >/dev/null
./longladder check --brief $brief --out $out/check.png >/dev/null
./longladder portrait --brief $brief --each account --name 03085 --out $out/portrait.png >/dev/null
./longladder pareto --brief $brief --each account --cut 80%,95% --when 2025 --against 'year before' --out $out/pareto.png >/dev/null
./longladder tiers --brief $brief --each account --tiers Copper=0,Brass=5000,Silver=20000,Gold=50000 --out $out/tiers.png >/dev/null
./longladder quadrants --brief $brief --each account --metrics revenue,margin_rate --highlight high,low --out $out/quadrants.png >/dev/null
./longladder substitution --brief $brief --each account --product family --when 2026-Q2 --out $out/substitution.png >/dev/null
./longladder drill --brief $brief --metrics revenue --when 2026-Q2 --out $out/drill.png >/dev/null
./longladder bridge --brief $brief --metrics revenue --by item --when 2026-Q2 --out $out/bridge.png >/dev/null
./longladder cohorts --brief $brief --each account --every quarter --since none --out $out/cohorts.png >/dev/null
./longladder lapsed --brief $brief --each account --never leave --top 16 --out $out/lapsed.png >/dev/null
./longladder whitespace --brief $brief --each account --product family --out $out/whitespace.png >/dev/null
./longladder score --brief $brief --each rep --metrics revenue,margin_rate,orders --weights 3,2,1 --when 2025 --out $out/score.png >/dev/null
# The report as a browser shows it.
made=$(mktemp -d)
./longladder run $brief --out $made/run --quiet >/dev/null
chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,800 \
  --screenshot=$out/report.png file://$made/run/report.html >/dev/null 2>&1
rm -r $made
# The desk, wide, narrow and dark.
R_LIBS="build/library${R_LIBS:+:$R_LIBS}" Rscript --no-init-file tools/desk-screenshot.R
