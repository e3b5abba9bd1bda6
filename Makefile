# make demo   install, build and start with demo data on 127.0.0.1:$(PORT); needs python3, node and npm only
# make test   the same, Debian's Chromium and PostgreSQL when there is none, then every test
# make soak   1,000 kills while it writes; the property of one truth over all 300 random starters, plan, failures, record and papers too
# make lint   style, types, import rules, generated files up to date
# make bench  the measured bars, one table
# make api    after changing the API: write openapi.json and the front end's types again
# make screenshots  the pictures of docs/screenshots anew
# make lock   after changing requirements*.txt: write constraints.txt again
SHELL := /bin/bash
.SHELLFLAGS := -eu -o pipefail -c
.DELETE_ON_ERROR:
.PHONY: demo build bytecode serve test soak lint bench screenshots api lock clean deps-test chromium pango postgres

PYTHON ?= python3
PORT ?= 8080
DATABASE ?= volmek-demo.db
BIN := .venv/bin
CHROMIUM = $(shell command -v chromium-headless-shell || command -v chromium)
PIP := $(BIN)/python -m pip install --quiet --disable-pip-version-check
WEB := $(shell find frontend/src frontend/public -type f) frontend/index.html frontend/vite.config.ts $(wildcard frontend/tsconfig*.json)
APT := DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends
SUDO := $(shell [ "$$(id -u)" = 0 ] || command -v sudo)

demo:
	$(MAKE) -j2 --no-print-directory build
	exec $(BIN)/volmek serve --demo --database $(DATABASE) --port $(PORT)

serve: build
	exec $(BIN)/volmek serve --database $(DATABASE) --port $(PORT)

build: bytecode frontend/dist/index.html pango

.venv/.pip:
	$(PYTHON) -m venv .venv
	$(PIP) --upgrade pip
	touch $@

.venv/.run: .venv/.pip requirements.txt constraints.txt pyproject.toml
	$(PIP) -r requirements.txt -c constraints.txt
	$(PIP) --no-deps --editable .
	touch $@

# Compiled here and not at every start: an environment may forbid Python to write it by itself.
bytecode: .venv/.run
	@$(BIN)/python -m compileall -q src

.venv/.dev: .venv/.run requirements-dev.txt
	$(PIP) -r requirements-dev.txt -c constraints.txt
	touch $@

frontend/node_modules/.stamp: frontend/package.json frontend/package-lock.json frontend/.npmrc
	cd frontend && npm ci --no-audit --no-fund
	touch $@

frontend/dist/index.html: frontend/node_modules/.stamp $(WEB)
	cd frontend && npm run --silent build
	find frontend/dist -name '*.js' -o -name '*.css' | xargs gzip -9 --keep --force
	touch $@

# WeasyPrint's only system library; already there on most desktops.
pango:
	@ldconfig -p | grep -q libpangoft2-1.0.so.0 || { $(SUDO) apt-get update -qq && $(SUDO) $(APT) libpango-1.0-0 libpangoft2-1.0-0 >/dev/null; }

# The headless shell takes half the processor time of the whole browser; where Debian has none, the whole one.
chromium:
	@command -v chromium-headless-shell >/dev/null || { $(SUDO) apt-get update -qq && $(SUDO) $(APT) chromium-headless-shell >/dev/null; } || \
	  command -v chromium >/dev/null || $(SUDO) $(APT) chromium >/dev/null

# The tests start a server of their own; Debian's package is told to make none.
postgres:
	@ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || { $(SUDO) mkdir -p /etc/postgresql-common && \
	  echo 'create_main_cluster = false' | $(SUDO) tee /etc/postgresql-common/createcluster.conf >/dev/null && \
	  $(SUDO) apt-get update -qq && $(SUDO) $(APT) postgresql >/dev/null; }

deps-test: .venv/.dev bytecode frontend/dist/index.html

test: pango chromium postgres
	$(MAKE) -j2 --no-print-directory deps-test
	cd frontend && npm run --silent test:unit
	CHROMIUM=$(CHROMIUM) $(BIN)/python -m pytest -n 2

soak: postgres deps-test
	SOAK=1 $(BIN)/python -m pytest -s tests/store/test_killed.py
	SOAK=1 $(BIN)/python -m pytest tests/core/test_one_truth.py

lint: .venv/.dev frontend/node_modules/.stamp
	$(BIN)/ruff check src tests
	$(BIN)/ruff format --check --quiet src tests
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/volmek openapi --out .openapi.check.json
	diff -q openapi.json .openapi.check.json || { echo "run make api"; exit 1; }
	cd frontend && npm run --silent gen:api -- --check >/dev/null || { echo "run make api"; exit 1; }
	cd frontend && npm run --silent lint && npm run --silent format:check && npm run --silent typecheck

bench: pango chromium
	$(MAKE) -j2 --no-print-directory deps-test
	CHROMIUM=$(CHROMIUM) $(BIN)/python tests/bench/bench.py

screenshots: pango chromium
	$(MAKE) -j2 --no-print-directory deps-test
	CHROMIUM=$(CHROMIUM) $(BIN)/python docs/screenshots/take.py

api: .venv/.run frontend/node_modules/.stamp
	$(BIN)/volmek openapi --out openapi.json
	cd frontend && npm run --silent gen:api

lock:
	rm -rf .venv.lock && $(PYTHON) -m venv .venv.lock
	.venv.lock/bin/pip install -q -U pip && .venv.lock/bin/pip install -q -r requirements-dev.txt
	.venv.lock/bin/pip freeze > constraints.txt
	! grep -nE '://|@ file' constraints.txt
	rm -rf .venv.lock

clean:
	rm -rf .venv frontend/node_modules frontend/dist
