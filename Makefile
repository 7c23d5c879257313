# Every target makes what it needs first; stamps keep the second call quick.
PYTHON ?= python3
VENV   := .venv
BIN    := $(VENV)/bin
PORT   ?= 8137
export PIP_DISABLE_PIP_VERSION_CHECK = 1

.PHONY: demo serve test bench screenshots dist dev check types lock format clean

demo: $(VENV)/.run src/adhaero/webroot/index.html
	@$(BIN)/adhaero demo --port $(PORT)

serve: $(VENV)/.run src/adhaero/webroot/index.html
	@$(BIN)/adhaero serve --port $(PORT)

# Three at a time: on two cores the third fills what the others wait for a rig, a browser or a disk.
test: check
	$(BIN)/pytest -n 3 --dist loadfile --no-loadscope-reorder tests/e2e tests

# One file that holds everything, the built front end too: installed with pipx or pip, it needs no Node and no checkout.
dist: $(VENV)/.dev src/adhaero/webroot/index.html
	@rm -rf build dist
	@$(BIN)/pip wheel --quiet --no-deps --no-build-isolation --wheel-dir dist .
	@rm -rf build
	@ls dist

bench: $(VENV)/.dev
	@$(BIN)/python -m benchmarks

screenshots: $(VENV)/.dev $(VENV)/.browser src/adhaero/webroot/index.html
	@$(BIN)/python -m tests.e2e.screenshots

dev: $(VENV)/.dev web/node_modules/.stamp
	@$(BIN)/adhaero demo --port $(PORT) & trap 'kill $$!' EXIT; cd web && npm run dev

# Everything that is checked without running the product.
check: $(VENV)/.dev $(VENV)/.browser src/adhaero/webroot/index.html
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python -m tests.tools.generated_types
	cd web && npm run --silent check

# The TypeScript types follow the API: made by each check, and for an editor by this.
types: $(VENV)/.dev web/node_modules/.stamp
	$(BIN)/python -m tests.tools.generated_types

format: $(VENV)/.dev
	$(BIN)/ruff check --fix . ; $(BIN)/ruff format .

lock: $(VENV)/.dev
	$(BIN)/pip install --quiet uv
	cd requirements && for f in run dev; do ../$(BIN)/uv pip compile --quiet --generate-hashes \
	  --python-version 3.11 $$f.in -o $$f.lock --custom-compile-command 'make lock'; done

$(BIN)/python:
	$(PYTHON) -m venv $(VENV)

$(VENV)/.run: requirements/run.lock pyproject.toml | $(BIN)/python
	$(BIN)/pip install --quiet --require-hashes -r requirements/run.lock
	$(BIN)/pip install --quiet --no-deps --no-build-isolation -e .
	@touch $@

$(VENV)/.dev: requirements/dev.lock $(VENV)/.run
	$(BIN)/pip install --quiet --require-hashes -r requirements/dev.lock
	@touch $@

# The browser comes from the system's packages, never from a download of its own; so does what lays cables between
# the two computers of a test, and what reads a printed page back.
$(VENV)/.browser: Makefile | $(BIN)/python
	@(command -v chromium-headless-shell && command -v ip && command -v pdftotext) >/dev/null \
	  || (apt-get update -qq && apt-get install -y -qq chromium-headless-shell iproute2 poppler-utils >/dev/null)
	@touch $@

web/node_modules/.stamp: web/package-lock.json
	cd web && npm ci --no-audit --no-fund --ignore-scripts --loglevel=error
	@touch $@

src/adhaero/webroot/index.html: web/node_modules/.stamp web/index.html web/vite.config.ts $(shell find web/src -type f)
	cd web && npm run --silent build
	@touch $@

clean:
	rm -rf $(VENV) web/node_modules src/adhaero/webroot var
