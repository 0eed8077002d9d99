#!/usr/bin/env bash
# Installs what is missing, builds the program and plays the demo. Arguments go to `tanzen demo`.
set -euo pipefail
cd "$(dirname "$0")/.."

scripts/install_packages.sh
scripts/fetch_packages.sh
cmake --preset release --log-level=WARNING -DTANZEN_BUILD_TESTS=OFF -DTANZEN_BUILD_EXAMPLES=OFF -DTANZEN_BUILD_BENCHMARKS=OFF -B build/demo
cmake --build build/demo --target tanzen_program
build/demo/tanzen demo "$@"
