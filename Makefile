.PHONY: demo test long check bench mutants screenshots fronts architecture lock vendor schema setup
PY := .venv/bin/python
DATA ?= .data
SEED ?= 1
WORKERS ?= 3
WITHIN ?= inf
# One thread a worker, and bytecode kept: servers and wheels are started from the same modules again and again.
TESTING := OPENBLAS_NUM_THREADS=1 PYTHONDONTWRITEBYTECODE=
# Asserts as they stand: every worker of a fresh checkout would rewrite all of them. What failed is run again, explained.
PLAIN := --assert=plain

demo: setup ## create the database with the demo builds and serve on loopback
	@$(PY) -m iron_gulp.cli demo --data $(DATA)

test: ## everything: set-up, Chromium included, static checks, all tests
	@scripts/setup.sh --browser
	@$(MAKE) --no-print-directory check
	@$(TESTING) $(PY) -m pytest -n $(WORKERS) --dist loadgroup $(PLAIN) || { $(TESTING) $(PY) -m pytest --last-failed --last-failed-no-failures none; exit 1; }

long: ## the same tests with many more draws, and the slow proofs; not in CI
	@scripts/setup.sh --browser
	@IRON_GULP_LONG=1 $(TESTING) $(PY) -m pytest -n $(WORKERS) --dist worksteal

check: setup
	@.venv/bin/ruff check .
	@.venv/bin/ruff format --check .
	@.venv/bin/mypy
	@.venv/bin/lint-imports
	@.venv/bin/vulture
	@.venv/bin/interrogate --quiet iron_gulp/core

bench: setup
	@OPENBLAS_NUM_THREADS=1 $(PY) -m bench

mutants: setup ## small faults put into the core: how many tests/core notice
	@$(PY) scripts/mutants.py --seed $(SEED) --jobs $(WORKERS) --within $(WITHIN)

fronts: setup ## search the demo's fronts anew, after a change of physics, rules or shelf
	@$(PY) scripts/fronts.py

screenshots:
	@scripts/setup.sh --browser
	@$(PY) scripts/screenshots.py

architecture: setup ## draw docs/architecture.svg from the imports
	@$(PY) scripts/architecture.py

schema: setup ## refresh the published JSON Schema of the build file
	@$(PY) -m iron_gulp.cli schema > docs/build-file.schema.json

lock: ## pin the dependencies again with their hashes, without index addresses
	@.venv/bin/pip install --quiet uv
	@.venv/bin/uv pip compile --quiet --extra dev --generate-hashes --python-version 3.11.2 --no-annotate --no-emit-index-url \
	  --custom-compile-command "make lock" -o requirements.lock pyproject.toml

vendor: ## copy scripts, styles and fonts from their npm packages into the application
	@scripts/vendor.sh

setup:
	@scripts/setup.sh
