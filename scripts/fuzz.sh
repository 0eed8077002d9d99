#!/usr/bin/env bash
# Throws made-up formulas, plans and problem files, and results files with cells and bytes changed, at their readers under
# both sanitizers. Arguments: the seconds for each of the five, and a seed: the same one tries the same things, 0 takes a new one. What breaks a reader is kept in
# build/asan/findings. A file of as many operations as are allowed takes its minute and its gigabytes under sanitizers on
# a busy machine; what hangs takes for ever.
set -euo pipefail
cd "$(dirname "$0")/.."

seconds=${1:-60}
seed=${2:-1}
scripts/install_packages.sh
cmake --preset asan --log-level=WARNING
targets=(formula plan_file problem_file results_bytes results_rows)
cmake --build --preset asan --parallel "$(nproc)" --target "${targets[@]/#/fuzz_}"
mkdir -p build/asan/findings

workers=()
for target in "${targets[@]}"; do
  mkdir -p "build/asan/corpus/$target"
  "build/asan/tests/fuzz/fuzz_$target" "build/asan/corpus/$target" "tests/fuzz/seeds/$target" \
    -dict=tests/fuzz/words.dictionary -seed="$seed" -max_total_time="$seconds" -max_len=2000 -timeout=600 \
    -rss_limit_mb=6000 -print_final_stats=1 -artifact_prefix=build/asan/findings/ >"build/asan/fuzz_$target.log" 2>&1 &
  workers+=($!)
done
for worker in "${workers[@]}"; do
  if ! wait "$worker"; then
    tail -n 40 build/asan/fuzz_*.log >&2
    exit 1
  fi
done
for target in "${targets[@]}"; do
  echo "fuzz $target: $(grep -o 'number_of_executed_units: .*' "build/asan/fuzz_$target.log"), nothing broken"
done
