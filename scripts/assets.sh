#!/bin/sh
# Builds what the pages ship with into web/ui/static: the styles, the behaviour
# library and the fonts, from the versions pinned in package-lock.json.
set -eu
cd "$(dirname "$0")/.."
[ -x node_modules/.bin/tailwindcss ] || npm ci --no-audit --no-fund --loglevel=error
out=web/ui/static
mkdir -p "$out/fonts"
node_modules/.bin/tailwindcss -i web/ui/styles/app.css -o "$out/app.css" --minify 2>/dev/null
cp node_modules/@alpinejs/csp/dist/cdn.min.js "$out/alpine.js"
cp node_modules/@zxing/browser/umd/zxing-browser.min.js "$out/zxing.js"
cp node_modules/@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2 "$out/fonts/atkinson.woff2"
cp node_modules/@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff2 "$out/fonts/plexmono-400.woff2"
cp node_modules/@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-600-normal.woff2 "$out/fonts/plexmono-600.woff2"
