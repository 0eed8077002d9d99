#!/usr/bin/env bash
# Makes the table of docs/constrained-set.md anew, with the example of the release build.
set -euo pipefail
cd "$(dirname "$0")/.."

table=$(build/release/examples/standard_set docs/constrained-set.toml)
{
  cat <<'HEAD'
# The constrained set

Problems with equalities and inequalities, those of Hock and Schittkowski (1981) and some of any number of variables, each
from its standard start, by six methods with their usual settings and seed 1. A cell counts evaluations + gradients until the
method ended by itself, or after 20,000 evaluations, at a stated minimum: no constraint is broken by more than 1e-6, and the
value is right to 1e-4, of its size where that is above 1. `local` is a minimum that is known and not the lowest; a cell that
was missed tells the value, or by how much constraints are broken. A Jacobian counts a gradient for each of its rows. The
Hessians of the interior point are not in it. Made by `scripts/constrained_set.sh` from [the plan](constrained-set.toml).

HEAD
  echo "$table"
} >docs/constrained-set.md
