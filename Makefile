# Two commands do everything: make demo, make test.
PY := .venv/bin/python
STAMPS := .venv/.stamps
PORT := 8000
# the demo is one bench on this machine: no passwords, people pick their name
demo demo-reset dev: export DIANOIA_BENCH := 1

.PHONY: demo demo-reset backup restore dev test test-core coverage types schema lock clean
.SILENT:

demo: $(STAMPS)/python web/dist/index.html
	$(PY) manage.py upgrade
	$(PY) manage.py load_demo
	echo "Dianoia is at http://127.0.0.1:$(PORT) (stop with Ctrl-C)"
	$(PY) manage.py serve --listen 127.0.0.1:$(PORT)

demo-reset:
	echo "Copying, then removing the stored jobs"
	test ! -f var/dianoia.sqlite3 || $(PY) manage.py backup
	rm -f var/dianoia.sqlite3 var/dianoia.sqlite3-wal var/dianoia.sqlite3-shm
	$(MAKE) demo

backup: $(STAMPS)/python
	$(PY) manage.py backup

# make restore FILE=var/backups/dianoia-....sqlite3, with the server stopped
restore: $(STAMPS)/python
	$(PY) manage.py restore $(FILE)

dev: $(STAMPS)/dev $(STAMPS)/web
	$(PY) manage.py migrate --verbosity 0 && $(PY) manage.py load_demo
	echo "Hot reload at http://127.0.0.1:5173"
	DIANOIA_DEBUG=1 $(PY) manage.py runserver $(PORT) & cd web && npm run --silent dev; kill %1 2>/dev/null || true

# what the application runs with, and what its tests and checks need besides: each locked, with hashes
$(STAMPS)/python: requirements/runtime.txt
	echo "Setting up Python packages (a minute the first time)"
	test -x $(PY) || python3 -m venv .venv || python3.11 -m venv .venv
	$(PY) -m pip install --quiet --disable-pip-version-check --require-hashes --requirement $<
	mkdir -p $(STAMPS) && touch $@

$(STAMPS)/dev: requirements/dev.txt | $(STAMPS)/python
	echo "Setting up what tests and checks need (a minute the first time)"
	$(PY) -m pip install --quiet --disable-pip-version-check --require-hashes --requirement $<
	touch $@

# after a change of the dependencies in pyproject.toml
lock:
	test -x .venv/lock/bin/pip-compile || { python3 -m venv .venv/lock && .venv/lock/bin/pip install --quiet pip-tools==7.6.2; }
	for set in runtime dev; do \
	  .venv/lock/bin/pip-compile --quiet --generate-hashes --strip-extras --no-header --no-emit-index-url --no-emit-find-links --annotation-style=line \
	    $$(test $$set = dev && echo --extra dev) --output-file requirements/$$set.txt pyproject.toml; done

$(STAMPS)/web: web/package-lock.json | $(STAMPS)/python
	echo "Setting up front-end packages (a minute the first time)"
	cd web && npm ci --silent --no-audit --no-fund
	touch $@

web/dist/index.html: $(STAMPS)/web web/index.html web/vite.config.ts web/guide-plugin.ts $(shell find web/src docs/guide docs/guide.md -type f)
	echo "Building the front end"
	cd web && npm run --silent build -- --logLevel warn
	touch $@

schema: $(STAMPS)/dev
	$(PY) manage.py export_openapi_schema --api server.api.api.api --indent 1 --output docs/openapi.json
	$(PY) -m dianoia schema > docs/case.schema.json

types: schema $(STAMPS)/web
	cd web && npm run --silent types

test: $(STAMPS)/dev web/dist/index.html
	sh scripts/check.sh

# which branches of the core, the server and the front end the tests without a browser take
coverage: $(STAMPS)/dev $(STAMPS)/web
	$(PY) -m coverage run --branch --source=dianoia,server manage.py test --noinput tests.core tests.server
	$(PY) -m coverage report --skip-covered --sort=cover
	cd web && npx --no-install vitest run --coverage

# the fast tests of the core; make test runs the slow ones as well
test-core: $(STAMPS)/dev
	sh scripts/test_core.sh --exclude-tag slow
