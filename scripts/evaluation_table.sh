#!/usr/bin/env bash
# Writes tests/methods/evaluations.csv anew with the program of the release build: what each method spends until the gap
# is 1e-6 (surrogate and branch-and-bound apart, which think for seconds). A change that makes a number larger needs a reason in its commit.
set -euo pipefail
cd "$(dirname "$0")/.."

table=tests/methods/evaluations.csv
problems=(sphere:dim=5 rosenbrock ellipsoid:dim=5,rotate=1 rastrigin sphere:dim=10 rosenbrock:dim=10 ellipsoid:dim=10,rotate=1)
methods=$(build/release/tanzen methods --json | python3 -c 'import json, sys; print(*[m["name"] for m in json.load(sys.stdin) if m["name"] not in ("surrogate", "branch-and-bound")])')

{
  echo 'method,problem,evaluations,gradients'
  for method in $methods; do
    for problem in "${problems[@]}"; do
      outcome=$(build/release/tanzen solve "$problem" --with "$method" --gap 1e-6 --evaluations 20000 --json 2>/dev/null) || true
      python3 - "$method" "$problem" "$outcome" <<'PYTHON'
import json, sys
method, problem, text = sys.argv[1:]
if text and (run := json.loads(text))["status"] == "target":
    print(f'{method},"{problem}",{run["evaluations"]},{run["gradients"]}')
PYTHON
    done
  done
} >"$table.new"
mv "$table.new" "$table"
