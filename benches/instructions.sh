#!/usr/bin/env bash
# Counts the instructions of three fixed jobs and holds them against benches/instructions.txt: what makes the program slower
# is noticed on any machine, however busy. After a change that is meant to cost or save something:
#
#   benches/instructions.sh --renew
set -euo pipefail
cd "$(dirname "$0")/.."

program=${PROGRAM:-target/release/ypogram}
figures=benches/instructions.txt
most=10 # per cent that a job may change; runs of one build differ by 0.1
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT

if ! command -v valgrind >/dev/null; then
    echo "valgrind is not here: instructions are not counted" >&2
    exit
fi
if ! grep -qs avx2 /proc/cpuinfo; then
    echo "the figures are of a processor with AVX2, which this one lacks: instructions are not counted" >&2
    exit
fi

# The demo's list fifty times over, and its text.
head -1 crates/ypogram/demo/members.csv > "$work/members.csv"
for _ in $(seq 50); do tail -n +2 crates/ypogram/demo/members.csv; done >> "$work/members.csv"
for _ in $(seq 200); do cat crates/ypogram/demo/sign-up-sheet.txt; done > "$work/text.txt"

count() {
    valgrind --tool=callgrind --callgrind-out-file=/dev/null "$program" "$@" --no-rules --threads 1 -q 2>&1 >/dev/null |
        sed -n 's/.*Collected : \([0-9]*\).*/\1/p'
}

{
    echo "clean $(count clean "$work/members.csv" --field email --also notes -o "$work/cleaned")"
    echo "dedupe $(count dedupe "$work/members.csv" --field email -o "$work/unique.csv")"
    echo "extract $(count extract "$work/text.txt" -o "$work/found.csv")"
} > "$work/now"

if [ "${1:-}" = --renew ]; then
    cp "$work/now" "$figures"
    cat "$figures"
    exit
fi
join "$figures" "$work/now" | awk -v most="$most" '
    { change = ($3 - $2) * 100 / $2; jobs++
      printf "%-8s %12d instructions, %+.1f %%\n", $1, $3, change
      if (change > most || change < -most) far = 1 }
    END { if (jobs != 3) { print "a job is missing: benches/instructions.sh --renew" > "/dev/stderr"; exit 1 }
          if (far) { print "more than " most " % away from " "benches/instructions.txt; where that is meant: benches/instructions.sh --renew" > "/dev/stderr"; exit 1 } }'
