#!/usr/bin/env bash
# Fetches what pages hold and what their tests need from the npm registry, as web/package-lock.json pins it; does nothing
# where it is there already.
set -euo pipefail
cd "$(dirname "$0")/../web"

if [ ! -e node_modules/.package-lock.json ] || [ package-lock.json -nt node_modules/.package-lock.json ]; then
  PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1 npm ci --no-audit --no-fund --loglevel=error
fi
