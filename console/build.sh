#!/usr/bin/env bash
# Builds the console into dist/, unless nothing changed since it was built last.
set -euo pipefail
cd "$(dirname "$0")"
mkdir -p dist
