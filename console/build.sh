#!/usr/bin/env bash
# Builds the console into dist/, unless nothing has changed since it was built last.
set -euo pipefail
cd "$(dirname "$0")"
now=$(find src public index.html package-lock.json vite.config.ts -type f -print0 | sort -z | xargs -0 sha1sum | sha1sum | cut -d' ' -f1)
if [ -f dist/index.html ] && [ -f node_modules/.holtra-built ] && [ "$(cat node_modules/.holtra-built)" = "$now" ]; then exit 0; fi
./npm-packages.sh
npx --no-install vite build --logLevel warn
printf '%s' "$now" >node_modules/.holtra-built
