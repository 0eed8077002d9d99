#!/usr/bin/env bash
# Makes the table of docs/standard-set.md anew, with the example of the release build.
set -euo pipefail
cd "$(dirname "$0")/.."

table=$(build/release/examples/standard_set docs/standard-set.toml)
{
  cat <<'HEAD'
# The standard set of 1981

The unconstrained problems of Moré, Garbow and Hillstrom (1981), each from its standard start, by five methods with their
usual settings. A cell counts values + gradients until the method ended by itself, at a relative gradient of 1e-12, or after
20,000 values, at a stated minimum: to 1e-6 of its value, or to 1e-10 where that is zero. `local` is a minimum that the
paper states and that is not the lowest; a cell that was missed tells the value. Products with the Hessian count as
gradients. Made by `scripts/standard_set.sh` from
[the plan](standard-set.toml).

HEAD
  echo "$table"
} >docs/standard-set.md
