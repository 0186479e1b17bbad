# `make demo` opens the application with demo data; `make test` runs every check. Stamp files drive what is done again.
SHELL := /bin/bash
PY := .venv/bin/python
FRONT := PATH="$(CURDIR)/.venv/bin:$$PATH"
NPM := $(FRONT) npm
PORT ?= 8400
SEED ?= 1
# compiled modules are kept, whatever the shell says: each of some forty processes would compile all of them anew
export PYTHONDONTWRITEBYTECODE :=
BENCH_SOURCES := $(wildcard jemmon/core/bench/*.py)

.PHONY: setup demo demo-fresh test test-screens test-core bench bench-table lint made pictures mutants torture clean chromium

setup: .stamps/python .stamps/bench .stamps/web

.stamps/python: requirements.lock pyproject.toml
	@mkdir -p .stamps
	@python3 -c 'import venv, ensurepip' 2>/dev/null || { \
	  if [ "$$(id -u)" = 0 ]; then apt-get update -q && apt-get install -y -q python3-venv; \
	  else echo "python3-venv is missing. Type: sudo apt-get install python3-venv"; exit 1; fi; }
	@test -x .venv/bin/python || python3 -m venv .venv
	$(PY) -m pip install -q --disable-pip-version-check --require-hashes -r requirements.lock
	$(PY) -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
	@touch $@

# a compiled step knows only its own file's age: throw the cache away when any part of the bench changed, and compile again
.stamps/bench: .stamps/python $(BENCH_SOURCES)
	@rm -f jemmon/core/bench/__pycache__/*.nbi jemmon/core/bench/__pycache__/*.nbc
	$(PY) -m jemmon.cli warm
	@touch $@

.stamps/npm: frontend/package-lock.json .stamps/python
	cd frontend && $(NPM) ci --no-audit --no-fund --loglevel=error
	@touch $@

.stamps/web: .stamps/npm $(shell find frontend/src frontend/index.html frontend/vite.config.ts -type f 2>/dev/null)
	cd frontend && $(NPM) run --silent build -- --logLevel warn
	@touch $@

chromium:
	@command -v chromium-headless-shell >/dev/null || { \
	  if [ "$$(id -u)" = 0 ]; then apt-get update -q && apt-get install -y -q chromium-headless-shell; fi; } || true
	@command -v chromium-headless-shell >/dev/null || command -v chromium >/dev/null || { \
	  echo "Chromium is missing. Type: sudo apt-get install chromium-headless-shell"; exit 1; }

demo: setup
	$(PY) -m jemmon.cli demo --port $(PORT)

demo-fresh: setup
	$(PY) -m jemmon.cli demo --port $(PORT) --fresh

# what is made of the code and committed: the description of the interface, the front end's types, the page of methods
made: setup
	$(PY) -m jemmon.cli openapi > frontend/openapi.json
	$(PY) -m jemmon.cli method > docs/method.md
	$(PY) -m jemmon.cli lists > docs/lists.md
	cd frontend && $(NPM) run --silent types -- -o src/api/schema.d.ts
	cd frontend && $(FRONT) npx prettier --write --log-level warn src/api/schema.d.ts

lint: setup
	.venv/bin/ruff check jemmon tests tools
	.venv/bin/ruff format --check jemmon tests tools
	.venv/bin/mypy
	.venv/bin/lint-imports --no-logo
	$(PY) tools/docstrings.py
	$(PY) tools/sources.py
	$(PY) -m jemmon.cli openapi | diff -q - frontend/openapi.json || { echo "Type: make made"; exit 1; }
	$(PY) -m jemmon.cli method | diff -q - docs/method.md || { echo "Type: make made"; exit 1; }
	$(PY) -m jemmon.cli lists | diff -q - docs/lists.md || { echo "Type: make made"; exit 1; }
	cd frontend && $(NPM) run --silent types -- -o ../.stamps/schema.d.ts && \
	  $(FRONT) npx prettier --stdin-filepath src/api/schema.d.ts < ../.stamps/schema.d.ts | diff -q - src/api/schema.d.ts
	cd frontend && $(NPM) run --silent check && $(NPM) run --silent test

# browser flights wait most of the time, the rest computes: beside each other all are done sooner
test: setup chromium
	$(MAKE) --no-print-directory --jobs=3 --output-sync=target test-screens test-core lint

# a file is one worker's, since its server is; the longest first, so that all workers end together
LONGEST := $(addprefix tests/e2e/test_,tourer_flight.py own_aircraft.py whole_flight.py bars.py run_up_faults.py lists.py drills.py)

test-screens: setup chromium
	$(PY) -m pytest -q -n 4 --dist loadfile --no-loadscope-reorder $(LONGEST) $(filter-out $(LONGEST),$(wildcard tests/e2e/test_*.py))

# first those that wait for an engine's clock, so that at the end, when the browser has done, both processors compute
WAITING := tests/api/test_whole_lists.py tests/api/test_starts.py tests/api/test_unbreakable.py tests/api/test_killed.py

test-core: setup
	$(PY) -m pytest -q -n 2 --dist worksteal $(WAITING) \
	  $(filter-out $(WAITING),$(wildcard tests/api/test_*.py)) tests/core tests/reference

# all pictures of docs/screenshots: the flight screen's by the browser flights, the other pages' of the demo's data
pictures: setup chromium
	JEMMON_PICTURES=docs/screenshots $(PY) -m pytest -n 2 --dist loadfile tests/e2e
	$(PY) -m tests.pictures

# what the simulated engines give, against what is expected and by which source; each row is a test
bench-table: setup
	$(PY) -m tests.bench_table.table
	$(PY) -m tests.bench_table.faults

# changes the core by hand in forty places and counts what no test notices; takes long, not part of the tests
mutants: setup
	$(PY) tools/mutants.py --seed $(SEED)

# the whole server under attack; at most fifteen minutes a part, figures into docs/reliability.md
torture: setup
	$(PY) -m tests.corpora.torture $(PART) --seed $(SEED)

bench: setup chromium
	$(PY) -m tests.corpora.bench --seed $(SEED)

clean:
	rm -rf .stamps .venv frontend/node_modules jemmon/web
