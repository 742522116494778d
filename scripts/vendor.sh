#!/usr/bin/env bash
# Copies the front-end packages pinned in package-lock.json into the application, licences with them.
set -euo pipefail
cd "$(dirname "$0")/.."
npm ci --silent --ignore-scripts
out=iron_gulp/web/static/vendor
rm -rf "$out" && mkdir -p "$out/fonts"
nm=node_modules
cp $nm/htmx.org/dist/htmx.min.js $nm/idiomorph/dist/idiomorph-ext.min.js $nm/bootstrap/dist/css/bootstrap.min.css \
   $nm/echarts/dist/echarts.min.js "$out/"
sed -i '/sourceMappingURL/d' "$out"/bootstrap.min.css
for weight in 400 500 600 700; do cp $nm/@fontsource/barlow/files/barlow-latin-$weight-normal.woff2 "$out/fonts/"; done
for weight in 500 600; do
  cp $nm/@fontsource/barlow-semi-condensed/files/barlow-semi-condensed-latin-$weight-normal.woff2 "$out/fonts/"
done
for package in htmx.org idiomorph bootstrap echarts @fontsource/barlow; do
  name="$(basename "$package")"
  for licence in "$nm/$package"/LICEN[CS]E* "$nm/$package"/NOTICE*; do
    [ -f "$licence" ] && cp "$licence" "$out/$name.$(basename "$licence").txt"
  done
done
