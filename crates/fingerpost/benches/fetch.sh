#!/usr/bin/env bash
# Fetches the style sheets that the benches measure with, from the npm registry, into
# benches/fetched/. They are not committed; a bench that misses them says so and skips.
set -euo pipefail
cd "$(dirname "$0")"
mkdir -p fetched
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
(cd "$work" && npm pack --silent bootstrap@5 >/dev/null && tar -xzf bootstrap-*.tgz package/dist/css/bootstrap.css)
cp "$work/package/dist/css/bootstrap.css" fetched/bootstrap.css
echo "benches/fetched/bootstrap.css: $(wc -c < fetched/bootstrap.css) bytes"
