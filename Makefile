.PHONY: demo test check bench screenshots lock vendor schema setup
PY := .venv/bin/python
DATA ?= .data

demo: setup ## create the database with the demo builds and serve on loopback
	@$(PY) -m iron_gulp.cli demo --data $(DATA)

test: ## everything: set-up, Chromium included, static checks, all tests
	@scripts/setup.sh --browser
	@$(MAKE) --no-print-directory check
	@$(PY) -m pytest

check: setup
	@.venv/bin/ruff check .
	@.venv/bin/ruff format --check .
	@.venv/bin/mypy
	@.venv/bin/lint-imports

bench: setup
	@$(PY) -m bench

screenshots:
	@scripts/setup.sh --browser
	@$(PY) scripts/screenshots.py

schema: setup ## refresh the published JSON Schema of the build file
	@$(PY) -m iron_gulp.cli schema > docs/build-file.schema.json

lock: ## pin the dependencies again, without index addresses
	@.venv/bin/pip install --quiet pip-tools
	@CUSTOM_COMPILE_COMMAND="make lock" .venv/bin/pip-compile --quiet --extra dev --strip-extras --allow-unsafe \
	  --no-emit-index-url --no-emit-trusted-host --no-emit-find-links -o requirements.lock pyproject.toml

vendor: ## copy scripts, styles and fonts from their npm packages into the application
	@scripts/vendor.sh

setup:
	@scripts/setup.sh
