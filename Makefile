# Each target makes .venv when it is missing; a second call reinstalls nothing.
PYTHON ?= python3
DEMO ?= demo
BIN := .venv/bin

# where bytecode is not kept, each of a thousand processes compiles every module anew
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo test test-long lint bench accuracy mutants matrix pages fuzz kills clean

demo: .venv/ready
	$(BIN)/kickback demo $(DEMO)

# a third of the tests wait for processes and clocks: three at a time keep two cores busy
test: .venv/ready
	$(BIN)/python -m pytest -n 3 --dist loadgroup -m "not long"

# the random and statistical runs, and every rate of each table of cases
test-long: .venv/ready
	$(BIN)/python -m pytest -n auto --dist loadgroup -m long

lint: .venv/ready
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python tools/complexity.py

bench: .venv/ready
	$(BIN)/python -m benchmarks

accuracy: .venv/ready
	$(BIN)/python -m benchmarks.accuracy $(only)

.venv/ready: pyproject.toml
	$(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable '.[dev]'
	touch $@

mutants: .venv/ready
	$(BIN)/python tools/mutants.py

matrix: .venv/ready
	$(BIN)/python tools/matrix.py

pages: .venv/ready
	$(BIN)/python tools/metric_pages.py

# a million hostile inputs; FUZZ="guided 600 file" looks for new lines, where atheris is installed
fuzz: .venv/ready
	$(BIN)/python tools/fuzz.py $(FUZZ)

# 500 recorders that are ended the hard way, under load
kills: .venv/ready
	$(BIN)/python tools/kills.py

clean:
	rm -rf .venv demo build src/*.egg-info
