#!/bin/sh
# Writes the licences of all that ships in the program: Go itself, the modules that are linked in, scripts, styles and fonts.
#   scripts/licences.sh FILE
set -eu
go="${GO:-go}"
out="$1"
# licence NAME FOLDER: the file of a package, or where it ships none what its package.json says, with that licence's own text.
licence() {
	printf '==== %s ====\n\n' "$1"
	for file in "$2"/[Ll][Ii][Cc][Ee][Nn][SsCc][Ee]* "$2"/COPYING*; do
		[ -f "$file" ] && { tr -d '\r' <"$file"; echo; return; }
	done
	grep -q '"license": "MIT"' "$2/package.json" || { echo "no licence in $1" >&2; exit 1; }
	sed -n 's/^ *"author": "\(.*\)",$/MIT License\n\nCopyright (c) \1/p' "$2/package.json"
	sed '1,/^Copyright/d' LICENSE
	echo
}
{
	printf 'Yembo ships with the work of others, under these licences.\n\n'
	licence "Go standard library" "$("$go" env GOROOT)"
	GOOS=linux GOARCH=amd64 "$go" list -deps -f '{{with .Module}}{{if not .Main}}{{.Path}} {{.Dir}}{{end}}{{end}}' ./cmd/yembo |
		sort -u | while read -r name dir; do licence "$name" "$dir"; done
	for name in @alpinejs/csp @vue/reactivity @vue/shared tailwindcss @fontsource-variable/atkinson-hyperlegible-next @fontsource/ibm-plex-mono @zxing/browser \
		@zxing/library; do
		licence "$name" "node_modules/$name"
	done
} >"$out.part"
mv "$out.part" "$out"
