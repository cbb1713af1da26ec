# Two commands matter: `make demo` and `make test`. Everything they need they install.
SHELL := /bin/bash
.DEFAULT_GOAL := help
PYTHON := .venv/bin/python
export PYTHONPATH :=
unexport PYTHONDONTWRITEBYTECODE

help: ## list these commands
	@grep -hE '^[a-z-]+:.*## ' $(MAKEFILE_LIST) | sed 's/:.*## /\t/' | expand -t 12

setup: ## install what is missing, build the front end
	@scripts/setup.sh

demo: setup ## start the application with demo data; Ctrl-C ends it
	@exec $(PYTHON) -m mildhusk.launch --demo

test: setup check ## everything: style, types, contracts, core, API, browser
	$(PYTHON) -m pytest -n 2 --dist worksteal
	cd frontend && npm test --silent

check: setup ## formatter, linter, type checker, import contract, generated types
	@$(MAKE) --no-print-directory -j 2 check-python check-front

check-python:
	.venv/bin/ruff format --check -q src tests bench scripts
	.venv/bin/ruff check -q src tests bench scripts
	.venv/bin/mypy
	.venv/bin/lint-imports --no-logo

check-front:
	scripts/api-types.sh --check
	cd frontend && npm run --silent format:check && npm run --silent lint && npm run --silent types

types: setup ## regenerate the front end's types from the OpenAPI document
	scripts/api-types.sh

shots: setup ## remake docs/screenshots from the demo in a real browser
	$(PYTHON) scripts/shots.py

wheel: setup ## build dist/*.whl with the front end in it
	scripts/wheel.sh

bench: setup ## run what stands in bench/
	for script in bench/*.py; do $(PYTHON) $$script || exit 1; done

requests: setup ## send 100,000 requests at random as every role (some half hour)
	REQUESTS=100000 $(PYTHON) -m pytest -n 2 -rP tests/api/test_random_requests.py

faults: setup ## break what runs at random, under load, 200 times (some 10 minutes)
	$(PYTHON) scripts/faults.py

lock: ## recompile the hashed requirements, list what ships by its licence
	for name in run test; do .venv/bin/uv pip compile -q --generate-hashes --no-header \
	  --python-version 3.11 requirements/$$name.in -o requirements/$$name.txt || exit 1; done
	$(MAKE) --no-print-directory setup
	$(PYTHON) scripts/licences.py

.PHONY: help setup demo test check check-python check-front types shots wheel bench requests faults lock
