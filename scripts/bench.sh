#!/bin/sh
# Runs the benchmarks of a base and of the present in turns, side by side, and prints the ratios.
#   scripts/bench.sh COMMIT [PATTERN] [ROUNDS]
# Each side is built once, so that a round measures and nothing else.
set -eu
cd "$(dirname "$0")/.."
base=$1 pattern=${2:-.} rounds=${3:-6}
go=${GO:-go}
dir=$(mktemp -d)
trap 'git worktree remove --force "$dir/tree" 2>/dev/null || true; rm -rf "$dir"' EXIT
git worktree add -q --detach "$dir/tree" "$base"

# build TREE NAME: the test binaries of every package with benchmarks.
build() {
	grep -rl --include='*_test.go' '^func Benchmark' "$1" --exclude-dir=node_modules | xargs -n1 dirname | sort -u |
		while read -r pkg; do
			name=$(echo "${pkg#"$1"}" | tr / _)
			(cd "$pkg" && "$go" test -c -o "$dir/$2$name.test" .)
			echo "$pkg $dir/$2$name.test"
		done >"$dir/$2.list"
}
build "$dir/tree" base
build "$PWD" now
for round in $(seq "$rounds"); do
	for side in base now; do
		while read -r pkg binary; do
			(cd "$pkg" && "$binary" -test.run '^$' -test.bench "$pattern" -test.benchmem -test.benchtime 0.5s) >>"$dir/$side.txt"
		done <"$dir/$side.list"
	done
	echo "round $round of $rounds" >&2
done
"$go" tool benchstat -ignore pkg "base=$dir/base.txt" "now=$dir/now.txt"
