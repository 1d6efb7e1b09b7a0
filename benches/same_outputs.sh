#!/usr/bin/env bash
# Holds the outputs of two builds against each other, byte for byte: on the demo, on odd tables and text, at one thread and at
# two, with and without temporary files. For a change that is to change nothing:
#
#   benches/same_outputs.sh OLD NEW
set -euo pipefail
old=$(realpath "$1") new=$(realpath "$2")
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cp crates/ypogram/demo/* "$work/"
cd "$work"

# Odd tables: the demo's cells in other orders, quoted, cut off, with signs in them that mean something to some format.
awk 'BEGIN { srand(7); print "nr,email,notes,name" }
     { line[NR] = $0 }
     END { split("\"|,|;|@|<|>|(|)|=|+|%40|&#64;|mailto:| |\t|é|漢|.|..|\047", sign, "|")
           for (n = 0; n < 4000; n++) {
               split(line[int(rand() * NR) + 1], cell, ","); s = ""
               for (k = 0; k < 3; k++) s = s (rand() < .3 ? sign[int(rand() * 20) + 1] : "") cell[int(rand() * 5) + 1]
               gsub(/"/, "\"\"", s)
               print n ",\"" s "\"," cell[2] (rand() < .05 ? ",,more" : "") "," cell[3] } }' members.csv > odd.csv
tail -n +2 odd.csv | tr ',' '\n' > odd.txt
{ echo 'From: "Ada" <ada@h-works.org>'; echo; cat odd.txt; } > odd.eml
head -300 odd.csv | iconv -f UTF-8 -t UTF-16 > wide.csv

calls=0 differing=0
while read -r call; do
    for machine in "--threads 1" "--threads 2 --chunk-bytes 700" "--threads 2 --memory 64K --chunk-bytes 300"; do
        case "$call" in explain*|lists*|rules*) machine="" ;; esac
        for build in old new; do
            rm -rf out && mkdir out
            # shellcheck disable=SC2086
            { "${!build}" $call $machine > out/stdout 2> out/stderr && echo 0 || echo $?; } > out/code
            rm -rf "$build" && mv out "$build"
        done
        calls=$((calls + 1))
        if ! diff -rq old new > differences; then
            differing=$((differing + 1))
            echo "differs: $call $machine"
            diff -r old new | head -5 || true
        fi
    done
done <<'CALLS'
survey members.csv --json
survey odd.csv --field email --full
survey odd.csv --show finding=double-dot
check members.csv -o out/rows.csv
check odd.csv --field email --also notes -o out/rows.csv --full
check odd.csv --field email --grammar header -o out/rows.csv
check odd.csv --field email --sort-by name,-nr --columns email,name,yp_address,yp_findings -o out/rows.csv
check odd.txt --to plain
check wide.csv --field email -o out/rows.csv
clean members.csv --field email --also notes -o out/cleaned
clean odd.csv --field email --also notes --learn -o out/cleaned
clean odd.csv --field email --row-per-address -o out/cleaned
dedupe members.csv
dedupe odd.csv --field email --survivor fullest --merge --changes out/changes.csv -o out/kept.csv --dropped out/dropped.csv
dedupe odd.csv --field email --mark -o out/marked.csv
dedupe odd.csv --field email --report out/report.csv --groups out/groups.csv --near out/near.csv --rule-differences out/rules.csv
dedupe odd.txt -o out/lines.txt
split members.csv -o out/parts.csv
split odd.csv --field email --row-per-address -o out/parts.csv
extract odd.txt --obfuscated -o out/found.csv
extract odd.csv --unique -o out/found.csv
extract odd.csv --show-skipped -o out/found.csv
extract odd.eml --to jsonl --context 20 -o out/found.jsonl
extract wide.csv -o out/found.csv
extract odd.csv --row-per-address -o out/found.csv
lists
lists show partners
rules
explain night.owl@gmial,com
CALLS
echo "$calls calls, $differing differ"
[ "$differing" = 0 ]
