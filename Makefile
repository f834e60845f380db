# Mild Canopy. Two commands to begin with: make demo, make test.
PYTHON ?= python3
PORT ?= 8000
HOST ?= 127.0.0.1
VENV := .venv
BIN := $(VENV)/bin
UV := $(BIN)/uv
SERVE := --host $(HOST) --port $(PORT)

CORE := .venv-core
# Two tests at a time; numbers of one process each.
SPREAD ?= -n 2 --dist worksteal

.PHONY: demo run test check fix test-core bench shots vendor lock env env-dev

demo: export MILD_CANOPY_DATA = $(CURDIR)/data-demo
demo: env
	@$(BIN)/mild-canopy demo $(SERVE)

run: export MILD_CANOPY_DATA ?= $(CURDIR)/data
run: env
	@$(BIN)/mild-canopy serve $(SERVE)

test: env-dev
	@scripts/need-debian.sh
	OPENBLAS_NUM_THREADS=1 $(BIN)/python -m pytest $(SPREAD)

# Everything but the browser tests; changes no file.
check: env-dev
	@scripts/need-debian.sh
	OPENBLAS_NUM_THREADS=1 $(BIN)/python -m pytest $(SPREAD) --ignore=tests/browser

# Lays out the code as the rules want it.
fix: env-dev
	$(BIN)/ruff format .
	$(BIN)/ruff check --fix .

# The core's tests where Django is not installed.
test-core: $(CORE)/.core
	$(CORE)/bin/python -m pytest -c tests/core-alone.ini --rootdir . tests/core

bench: env-dev
	$(BIN)/python scripts/bench.py

shots: env-dev
	@scripts/need-debian.sh
	$(BIN)/python scripts/shots.py

vendor: env-dev
	$(BIN)/python scripts/vendor.py

lock: env
	$(UV) pip compile -q --universal --python-version 3.11 --generate-hashes --no-header requirements/base.in -o requirements/base.txt
	$(UV) pip compile -q --universal --python-version 3.11 --generate-hashes --no-header requirements/dev.in -o requirements/dev.txt
	$(UV) pip compile -q --universal --python-version 3.11 --generate-hashes --no-header requirements/core-test.in -o requirements/core-test.txt
	$(UV) pip compile -q --universal --python-version 3.11 --generate-hashes --no-header requirements/uv.in -o requirements/uv.txt

env: $(VENV)/.base
env-dev: $(VENV)/.base $(VENV)/.dev

$(UV): requirements/uv.txt
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Python 3.11 or newer is needed (PYTHON=python3.12 make demo)"; exit 1; }
	@$(PYTHON) -m venv $(VENV) || { echo "The module venv is missing: on Debian, apt-get install python3-venv"; exit 1; }
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements/uv.txt
	@touch $(UV)

$(VENV)/.base: $(UV) requirements/base.txt pyproject.toml
	@$(UV) pip install --quiet --python $(BIN)/python --compile-bytecode --require-hashes -r requirements/base.txt
	@$(UV) pip install --quiet --python $(BIN)/python --no-deps --no-build-isolation --config-settings editable_mode=compat --editable .
	@$(BIN)/python -m compileall -q canopy canopy_web
	@$(BIN)/python -m canopy.climate.warm
	@touch $@

$(VENV)/.dev: $(VENV)/.base requirements/dev.txt
	@$(UV) pip install --quiet --python $(BIN)/python --require-hashes -r requirements/dev.txt
	@touch $@

$(CORE)/.core: $(UV) requirements/core-test.txt
	@$(PYTHON) -m venv $(CORE)
	@$(UV) pip install --quiet --python $(CORE)/bin/python --require-hashes -r requirements/core-test.txt
	@touch $@
