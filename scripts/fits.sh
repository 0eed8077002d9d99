#!/usr/bin/env bash
# Writes the fits of the testbed as problem files with their tables into data/fits, with the program of the release build.
# After a change, scripts/certified_fits.py certifies them anew.
set -euo pipefail
cd "$(dirname "$0")/.."

mkdir -p data/fits
rm -f data/fits/*.toml data/fits/*.csv
build/release/tanzen problems --trait fit --json | python3 -c 'import json, sys
for each in json.load(sys.stdin):
    print(each["name"])' | while read -r name; do
  build/release/tanzen problems "$name" --write "data/fits/$name.toml" >/dev/null
done
