# make demo opens the demo, make test runs every check; both install what is missing first.
# The newest Python of those it is tried on: there, to see which lines the tests run costs least.
ifndef PYTHON
PYTHON := $(or $(shell python3 packaging/which_python.py newest),python3)
endif
VENV := .venv
BIN := $(VENV)/bin
# One environment holds one Python; another one makes it anew.
STAMP := $(VENV)/installed-$(shell $(PYTHON) -c 'import sys; print("%d.%d" % sys.version_info[:2])')
TESTS ?= tests

.PHONY: install demo test test-core hands kills soak fuzz mutants bench screenshots lock schema clean

install: $(STAMP)

$(STAMP): requirements.lock pyproject.toml packaging/system-packages.sh
	sh packaging/system-packages.sh run
	$(PYTHON) packaging/check_python.py
	$(PYTHON) -m venv --clear $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation --no-index \
		--config-settings editable_mode=compat -e .
	$(BIN)/python -m compileall -q cicada
	touch $(STAMP)

demo: install
	$(BIN)/cicada demo

# Three at once on two cores: tests of the window often wait. What must keep time is not traced.
test: install
	sh packaging/system-packages.sh test
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	rm -f .coverage .coverage.*
	$(BIN)/coverage run -m pytest -n 3 --dist loadfile --no-loadscope-reorder -m 'not alone' $(TESTS)
	$(BIN)/python -m pytest -m alone $(TESTS)
	$(BIN)/python packaging/coverage_by_layer.py

# The core's and the store's tests alone, on another Python: PYTHON=python3.11 VENV=.venv-3.11.
test-core: install
	"$(PYTHON)" --version
	$(BIN)/python -m pytest -q -n 2 tests/core tests/store

# Random things done to a real window: make hands STEPS=1000 SEED=1.
STEPS ?= 1000
SEED ?= 1
hands: install
	$(BIN)/python -m tests.hands --steps $(STEPS) --seed $(SEED)

# Windows killed while somebody works in them, and an hour of playing while the film is edited.
N ?= 20
MINUTES ?= 60
kills: install
	sh packaging/system-packages.sh test
	$(BIN)/python -m tests.kills --times $(N) --seed $(SEED)

soak: install
	$(BIN)/python -m tests.soak --minutes $(MINUTES) --seed $(SEED)

# Files of every kind, damaged and wicked: make fuzz N=20000 SEED=1.
fuzz: install
	$(BIN)/python -m tests.fuzz --count $(N) --seed $(SEED)

# Random changes of one operator in the core, each run against the core's tests.
COUNT ?= 100
mutants: install
	$(BIN)/python -m tests.mutants --count $(COUNT) --seed $(SEED)

bench: install
	sh packaging/system-packages.sh test
	$(BIN)/python -m benchmarks

screenshots: install
	$(BIN)/python packaging/screenshots.py

schema: install
	$(BIN)/python -m cicada.deliver.schema

# Needs the tool uv; the lock is the only place that names exact versions.
lock:
	uv pip compile pyproject.toml packaging/build.in --extra dev --universal --python-version 3.11 \
		--generate-hashes --no-emit-index-url --no-annotate --no-header -o requirements.lock

clean:
	rm -rf $(VENV) .venv-* build
