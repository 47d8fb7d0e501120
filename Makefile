# Back Squat: the commands. `make demo` starts it, `make test` proves it.
PORT ?= 8000
PY := .venv/bin/python
export PYTHONPATH := src
# Compiled once: a start that compiles everything again takes several times as long, and tests start the program often.
export PYTHONDONTWRITEBYTECODE :=
export BACKSQUAT_DATA

.PHONY: demo demo-reset serve backup restore setup test browsers lint bench simulate tables rules sweep trust shipped screenshots lock wheel walk help

help:
	@grep -E '^[a-z-]+:.*##' Makefile | sed -E 's/:.*## /\t/' | expand -t 16

demo: setup ## set up everything and serve the demo on 127.0.0.1:8000 (PORT=9001 for another port)
	@$(PY) -m backsquat demo --port $(PORT)

demo-reset: setup ## throw the demo data away and make it afresh
	@$(PY) -m backsquat demo-reset

serve: setup ## serve your own data (SERVE="--behind-proxy" and the like; first: .venv/bin/python -m backsquat new-squad --help)
	@$(PY) -m backsquat serve --port $(PORT) $(SERVE)

backup: setup ## copy your own data, checked, into backups/ beside them (also while they are served)
	@$(PY) -m backsquat backup

restore: setup ## put a backup in the place of your own data: make restore FILE=var/own/backups/...
	@$(PY) -m backsquat restore "$(FILE)"

setup:
	@tools/setup app

lint:
	@tools/setup test
	@.venv/bin/ruff check src tests tools measure
	@.venv/bin/ruff format --check src tests measure
	@.venv/bin/mypy
	@.venv/bin/lint-imports

test: lint ## lint, types, import rules, then every test (installs headless Chromium where it may)
	@$(PY) -m pytest -n auto --dist worksteal

browsers: ## the floor's whole way in WebKit and in Firefox too (installs both where it may)
	@tools/setup test
	@tools/setup browsers
	@ENGINES=1 $(PY) -m pytest -n 0 tests/browser/test_engines.py

bench: setup ## measure on large generated data (a few minutes); writes docs/benchmarks.md
	@PYTHONPATH=src:. $(PY) -m measure.bench

simulate: setup ## try every progression on 1,000 made-up athletes (some minutes); writes docs/simulations.md
	@PYTHONPATH=src:. $(PY) -m measure.trials

tables: setup ## plan five lifters in two rooms under every progression; writes docs/tables.md, to be read before a release
	@$(PY) tools/tables.py

rules: setup ## write the tables of docs/RULES.md again from the code
	@$(PY) tools/rules_tables.py

sweep: ## every route by every role of another squad with this one's ids, row by row compared (a minute)
	@tools/setup test
	@WHOLE=1 $(PY) -m pytest -q -n 0 -s tests/work/test_sweep.py

trust: setup ## kill, fill, hold, copy and restore a real server (some minutes); writes figures into docs/SECURITY.md
	@$(PY) tools/trust.py

shipped: ## list what is shipped in docs/SBOM.json; FAULTS=folder of OSV files: name what is known to be faulty
	@tools/setup test
	@$(PY) tools/shipped.py $(if $(FAULTS),--faults $(FAULTS))

screenshots: ## write docs/screenshots/ from the demo data
	@tools/setup test
	@$(PY) tools/screenshots.py

wheel: ## the package, into dist/
	@tools/setup test
	@$(PY) -m hatchling build -t wheel

UV_LOCK := .venv/bin/uv pip compile -q --generate-hashes --universal --python-version 3.11 --no-emit-index-url

lock: ## make the locks in requirements/ again, for Python 3.11 to 3.13; what the application needs stands in pyproject.toml
	@$(UV_LOCK) requirements/setup.in -o requirements/setup.txt
	@$(UV_LOCK) pyproject.toml --extra pdf -o requirements/app.txt
	@$(UV_LOCK) pyproject.toml --extra pdf requirements/test.in -o requirements/test.txt
	@$(UV_LOCK) pyproject.toml --extra pdf requirements/test.in requirements/browsers.in -o requirements/browsers.txt

walk: ## use the application at random, as people do (MINUTES=30, SEED=1); prints the shortest story of each fault found
	@tools/setup test
	@PYTHONPATH=src:. $(PY) tools/walk.py --minutes $(or $(MINUTES),30) $(if $(SEED),--seed $(SEED))
