#!/usr/bin/env bash
# The one test command: installs what is missing, builds, runs every test. An argument names another preset
# (release, debug, asan).
set -euo pipefail
cd "$(dirname "$0")/.."

preset=${1:-release}
scripts/install_packages.sh
scripts/fetch_packages.sh
cmake --preset "$preset" --log-level=WARNING
# One compiler a core: more of them fight over its caches for a twentieth of their time.
cmake --build --preset "$preset" --parallel "$(nproc)"
ctest --preset "$preset"
