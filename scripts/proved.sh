#!/usr/bin/env bash
# Writes docs/proved.md and src/testbed/proved_values.inc: what branch-and-bound proves of the functions of the testbed
# within their regions, in one and two variables, in three to five, and in their usual number. The first argument is how
# many seconds each may take (30).
set -euo pipefail
cd "$(dirname "$0")/.."

python3 - "${1:-30}" <<'PYTHON'
import json, subprocess, sys, time

limit = sys.argv[1]
tanzen = "build/release/tanzen"
most_usual = 20


def told(*arguments):
    return subprocess.run([tanzen, *arguments], capture_output=True, text=True).stdout


def names():
    for entry in json.loads(told("problems", "--json")):
        if "several-objectives" in entry["traits"]:
            continue
        for dimension in (1, 2, 3, None):
            yield entry["name"] + (f":dim={dimension}" if dimension else ""), "constrained" in entry["traits"]


groups = {"in one and two variables": [], "in three to five variables": [], "in more": [], "under constraints": []}
rows, seen = [], set()
for name, is_constrained in names():
    began = time.time()
    text = told("solve", name, "--with", "branch-and-bound", "--seconds", limit, "--json")
    if not text:
        continue  # no such dimension, or no formula
    run = json.loads(text)
    if run["problem"] in seen or run["dimension"] > most_usual:
        continue
    seen.add(run["problem"])
    n, proof, gap = run["dimension"], run["proof"], run["gap"]
    group = "under constraints" if is_constrained else list(groups)[0 if n <= 2 else 1 if n <= 5 else 2]
    seconds = f"{time.time() - began:.1f}"
    if proof:
        value = max(1, abs(run["value"]))
        stated = "" if gap is None else "yes" if abs(gap) <= 1e-6 * value else "**no**"
        one = sum(box["holds"] == "one" for box in proof["boxes"])
        line = f'| `{run["problem"]}` | {n} | {proof["lower"] + 0:.12g} | {stated} | {len(proof["boxes"])} | {one} | {proof["looked_at"]:,} | {seconds} |'
        rows.append(f'    {{"{run["problem"]}", {proof["lower"]!r}, {proof["upper"]!r}, {len(proof["boxes"])}, {proof["looked_at"]}}},')
    else:
        line = f'| `{run["problem"]}` | {n} | not proved: {run["message"]} | | | | | {seconds} |'
    groups[group].append((bool(proof), line))
    print(line, file=sys.stderr, flush=True)

with open("src/testbed/proved_values.inc.new", "w") as out:
    print("    // Made by scripts/proved.sh: problem, the best value from and to, boxes that hold all minimizers, boxes looked at.", file=out)
    print("\n".join(rows), file=out)
with open("docs/proved.md.new", "w") as out:
    print(f"""# Proved

Made by `scripts/proved.sh {limit}`: what `branch-and-bound` proves of the testbed within its regions, in at most {limit} seconds each on
one core: the best value, whether the stated one is it, how many boxes hold all global minimizers, in how many of them there is
exactly one, how many boxes were looked at, and the seconds of the whole command.""", file=out)
    for group, lines in groups.items():
        print(f"""
## {group[0].upper()}{group[1:]}

{sum(is_proved for is_proved, _ in lines)} of {len(lines)} are proved.

| problem | variables | best value | as stated | boxes | with exactly one | looked at | seconds |
| --- | ---: | ---: | --- | ---: | ---: | ---: | ---: |""", file=out)
        print("\n".join(line for _, line in lines), file=out)
PYTHON
mv src/testbed/proved_values.inc.new src/testbed/proved_values.inc
mv docs/proved.md.new docs/proved.md
