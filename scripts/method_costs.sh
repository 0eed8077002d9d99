#!/usr/bin/env bash
# Makes docs/method-costs.md anew with the program of the release build: which method, at what cost.
set -euo pipefail
cd "$(dirname "$0")/.."

smooth="sphere:dim=10 rosenbrock rosenbrock:dim=10 ellipsoid:dim=10,rotate=1 cigar:dim=10,rotate=1"
rugged="rastrigin:dim=5 ackley:dim=10 schwefel:dim=5 eggholder griewank:dim=5"
exact="bfgs lbfgs lbfgs-bounded conjugate-gradient truncated-newton newton newton-trust-region sr1"
values="quadratic-model powell nelder-mead rosenbrock-rotation implicit-filtering mesh-adaptive cma-es"
global="multistart single-linkage basin-hopping generalized-annealing direct differential-evolution adaptive-differential-evolution cma-es:restarts=two-regimes particle-swarm genetic"

table() { # problems, limit, gap, methods
  local methods=()
  for method in $4; do methods+=(--with "$method"); done
  build/release/tanzen compare $1 "${methods[@]}" --repeats 21 --gap "$3" --evaluations "$2" --gradient-weight "$5" --json | python3 -c '
import json, sys
result = json.load(sys.stdin)
problems = [p["problem"] for p in result["problems"]]
print("| method | " + " | ".join("`" + p + "`" for p in problems) + " |")
print("| --- |" + " ---: |" * len(problems))
rows = {}
for problem in result["problems"]:
    for m in problem["methods"]:
        solved, median = m["successes"], m["median_cost"]
        cost = "-" if median is None else f"{median:,.0f}"
        rows.setdefault(m["method"], []).append(cost if solved == m["repeats"] else f"{cost} ({solved})")
for method, cells in rows.items():
    print(f"| `{method}` | " + " | ".join(cells) + " |")
'
}

{
  cat <<'HEAD'
# Which method, at what cost

Medians over 21 starts (the usual one and 20 random ones, the same for all methods) of what a method spends until it is at the
global minimum, with its usual settings; in parentheses how many of the 21 came there, where not all did; `-` where fewer than
half did. Made by `scripts/method_costs.sh`.

## With exact derivatives

Values and gradients together, to a gap of 1e-8, within 50,000 values; a Hessian counts as n gradients.

HEAD
  table "$smooth" 50000 1e-8 "$exact" 1
  cat <<'HEAD'

## From values alone

Values to a gap of 1e-8, within 50,000.

HEAD
  table "$smooth" 50000 1e-8 "$values" 1
  cat <<'HEAD'

## Rugged landscapes

Values and gradients together, to a gap of 1e-4, within 50,000 values. The first four run a local method with exact gradients
inside. `direct` looks at the centre of the region first, where three of these have their minimum.

HEAD
  table "$rugged" 50000 1e-4 "$global" 1
  cat <<'HEAD'

## What to take

- Derivatives, up to some hundred variables: `bfgs`; where curvatures differ much, `truncated-newton` or `newton-trust-region`.
- Derivatives, very many variables: `lbfgs`, and `lbfgs-bounded` within bounds.
- Values alone, smooth: `quadratic-model`, up to a hundred variables.
- Many minima: `multistart` or `single-linkage` where they are few; `basin-hopping` where they lie in a funnel;
  `adaptive-differential-evolution` or `cma-es` with restarts where nothing is known.
- Values that take minutes: `surrogate`. To one part in a hundred it needs medians of 24 values for branin, 34 for
  goldstein-price, 21 for hartmann-3 and 50 for hartmann-6 (17 of 21 within 240), over 21 starts.
HEAD
} >docs/method-costs.md.new
mv docs/method-costs.md.new docs/method-costs.md
