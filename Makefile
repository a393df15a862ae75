# Each target makes .venv when it is missing; a second call reinstalls nothing.
PYTHON ?= python3
DEMO ?= demo
BIN := .venv/bin

.PHONY: demo test lint bench accuracy clean

demo: .venv/ready
	$(BIN)/kickback demo $(DEMO)

test: .venv/ready
	$(BIN)/python -m pytest

lint: .venv/ready
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy

bench: .venv/ready
	$(BIN)/python -m benchmarks

accuracy: .venv/ready
	$(BIN)/python -m benchmarks.accuracy

.venv/ready: pyproject.toml
	$(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable '.[dev]'
	touch $@

clean:
	rm -rf .venv demo build src/*.egg-info
