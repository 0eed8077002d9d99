#!/usr/bin/env bash
# Installs what Tanzen needs from Debian; says nothing where nothing is missing.
set -euo pipefail

packages=(
  g++ clang-16 lld-16 libclang-rt-16-dev cmake ninja-build pkg-config ccache clang-format
  libeigen3-dev libboost-dev librandom123-dev libfmt-dev libcli11-dev nlohmann-json3-dev libtomlplusplus-dev
  libtbb-dev libsqlite3-dev libopenmpi-dev openmpi-bin doctest-dev librapidcheck-dev libbenchmark-dev libmpfr-dev
  gnuplot-nox fonts-dejavu-core python3 nodejs chromium
)
# Where node does not bring it along.
command -v npm >/dev/null || packages+=(npm)

missing=()
for package in "${packages[@]}"; do
  status=$(dpkg-query -W -f '${db:Status-Status}' "$package" 2>/dev/null || true)
  [ "$status" = installed ] || missing+=("$package")
done
[ ${#missing[@]} -eq 0 ] && exit 0

as_root=()
[ "$(id -u)" -eq 0 ] || as_root=(sudo)
export DEBIAN_FRONTEND=noninteractive
log=$(mktemp)
trap 'rm -f "$log"' EXIT
echo "installing: ${missing[*]}"
if ! { "${as_root[@]}" apt-get update -qq && "${as_root[@]}" apt-get install -y -qq --no-install-recommends "${missing[@]}"; } >"$log" 2>&1; then
  tail -n 20 "$log" >&2
  exit 1
fi
