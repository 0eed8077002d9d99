#!/usr/bin/env bash
# Writes docs/proved.md: of every function of the testbed without constraints, in two variables where it exists so, what
# branch-and-bound proves of it within its region. The first argument is how many seconds each may take (10).
set -euo pipefail
cd "$(dirname "$0")/.."

python3 - "${1:-10}" >docs/proved.md.new <<'PYTHON'
import json, subprocess, sys

limit = sys.argv[1]
tanzen = "build/release/tanzen"


def told(*arguments):
    return subprocess.run([tanzen, *arguments], capture_output=True, text=True).stdout


rows, counts = [], {"proved": 0, "other": 0}
for entry in json.loads(told("problems", "--json")):
    for name in (entry["name"] + ":dim=2", entry["name"]):
        text = told("solve", name, "--with", "branch-and-bound", "--seconds", limit, "--json")
        if text:
            break
    if not text:
        continue  # constraints, several objectives, data: not for this method
    run = json.loads(text)
    proof, stated = run["proof"], run["gap"]
    if proof:
        counts["proved"] += 1
        inside = "" if stated is None else "yes" if abs(stated) <= 1e-6 * max(1, abs(run["value"])) else "**no**"
        one = sum(box["holds"] == "one" for box in proof["boxes"])
        rows.append(f'| `{run["problem"]}` | {run["dimension"]} | {proof["lower"]:.12g} | {inside} | {len(proof["boxes"])} | {one} | {proof["looked_at"]:,} |')
    else:
        counts["other"] += 1
        rows.append(f'| `{run["problem"]}` | {run["dimension"]} | not proved: {run["message"]} | | | | |')

print(f"""# Proved

Made by `scripts/proved.sh {limit}`: what `branch-and-bound` proves of the testbed within its regions, in at most {limit} seconds each, in
two variables where a function exists so. The best value, whether the stated one is it, how many boxes hold all global
minimizers, in how many of them there is exactly one, and how many boxes were looked at.

{counts["proved"]} of {counts["proved"] + counts["other"]} are proved.

| function | variables | best value | as stated | boxes | with exactly one | looked at |
| --- | ---: | ---: | --- | ---: | ---: | ---: |""")
print("\n".join(rows))
PYTHON
mv docs/proved.md.new docs/proved.md
