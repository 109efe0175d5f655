#!/bin/sh
# Every check of the project, in order of speed. Stops at the first that fails.
set -eu
PY=.venv/bin/python

say() { printf '\n== %s\n' "$1"; }

say "ruff"
.venv/bin/ruff check .
.venv/bin/ruff format --check --quiet .
say "mypy and the import order, beside them eslint and tsc"
mkdir -p var
(cd web && npm run --silent lint && npx --no-install tsc --noEmit) > var/web-checks.txt 2>&1 &
web=$!
.venv/bin/mypy
.venv/bin/lint-imports --no-cache
wait "$web" || { cat var/web-checks.txt; exit 1; }

say "generated files are fresh"
$PY manage.py export_openapi_schema --api server.api.api.api --indent 1 --output var/openapi.json
cmp var/openapi.json docs/openapi.json || { echo "docs/openapi.json is stale: run make types"; exit 1; }
$PY -m dianoia schema > var/case.schema.json
cmp var/case.schema.json docs/case.schema.json || { echo "docs/case.schema.json is stale: run make types"; exit 1; }
(cd web && npx --no-install openapi-typescript ../docs/openapi.json -o ../var/schema.gen.ts >/dev/null)
cmp var/schema.gen.ts web/src/api/schema.gen.ts || { echo "the TypeScript types are stale: run make types"; exit 1; }

if [ ! -x /usr/bin/chromium ]; then
  say "installing chromium for the browser tests"
  apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium >/dev/null
fi
say "tests of the core"
sh scripts/test_core.sh
say "tests of the server, the front end's modules and the screens"
$PY -W error::DeprecationWarning:dianoia manage.py test --timing \
  $(find tests -mindepth 2 -name '__init__.py' ! -path 'tests/core/*' -exec dirname {} \; | tr / . | sort)
