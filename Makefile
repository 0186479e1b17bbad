# `make demo` opens the application with demo data; `make test` runs every check. Stamp files drive what is done again.
SHELL := /bin/bash
PY := .venv/bin/python
NPM := PATH="$(CURDIR)/.venv/bin:$$PATH" npm
PORT ?= 8400
SEED ?= 1
BENCH_SOURCES := $(wildcard jemmon/core/bench/*.py)

.PHONY: setup demo demo-fresh test bench lint clean chromium

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
	@command -v chromium >/dev/null || { \
	  if [ "$$(id -u)" = 0 ]; then apt-get update -q && apt-get install -y -q chromium; \
	  else echo "Chromium is missing. Type: sudo apt-get install chromium"; exit 1; fi; }

demo: setup
	$(PY) -m jemmon.cli demo --port $(PORT)

demo-fresh: setup
	$(PY) -m jemmon.cli demo --port $(PORT) --fresh

lint: setup
	.venv/bin/ruff check jemmon tests
	.venv/bin/ruff format --check jemmon tests
	.venv/bin/mypy
	cd frontend && $(NPM) run --silent check

test: lint chromium
	$(PY) -m pytest

bench: setup chromium
	$(PY) -m tests.corpora.bench --seed $(SEED)

clean:
	rm -rf .stamps .venv frontend/node_modules jemmon/web
