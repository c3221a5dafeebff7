# Two commands do all the set-up: `make demo` and `make test`. Both are idempotent and quick the second time.
SHELL := /bin/bash
PY := .venv/bin/python
STAMP := .make
WEB_SRC := $(shell find web/src -type f 2>/dev/null) web/index.html web/vite.config.ts web/package-lock.json
# Tests load numpy before the package that says so: threads of two workers in the linear algebra wait for one another.
export OPENBLAS_NUM_THREADS ?= 1
SUDO := $(shell [ "$$(id -u)" = 0 ] || echo sudo)

.PHONY: demo test quick soak mutants bench check tests client docs pictures papers lock clean

demo: $(STAMP)/runtime lucernis/web/index.html
	$(PY) -m lucernis.cli demo --data .make/demo.sqlite3 --port 8765

test: $(STAMP)/test $(STAMP)/debian lucernis/web/index.html check tests

check: $(STAMP)/test $(STAMP)/web
	$(PY) -m ruff check .
	$(PY) -m ruff format --check .
	$(PY) -m mypy
	cd web && npm run --silent types && npm run --silent lint

tests: $(STAMP)/test $(STAMP)/debian lucernis/web/index.html
	$(PY) -m pytest -n 3 --dist worksteal

# For the hand at work: lint, types, core and plan, without browser, laws and other programs.
quick: $(STAMP)/test
	$(PY) -m ruff check .
	$(PY) -m mypy
	$(PY) -m pytest -n 3 --dist worksteal tests/core/checks tests/core/sizing tests/core/circuit tests/core/wire tests/plan tests/practice -k "not mend_can_be_carried_out and not edit_sequences and not findings_carry" --ignore=tests/core/sizing/test_sizing.py

soak: $(STAMP)/test $(STAMP)/debian lucernis/web/index.html
	LUCERNIS_LAW_PLANS=5000 LUCERNIS_SCHOOL_CASES=500 $(PY) -m pytest -n 2 --dist worksteal tests/law tests/outside/test_faults_by_hand.py tests/core/proposals/test_best_place.py tests/core/school/test_mistakes.py tests/plan/test_edit_sequences.py tests/store/test_kills.py tests/api/test_door.py

	# Nothing leans on what ran before it.
	for turn in 1 2 3; do $(PY) -m pytest -n 3 --dist worksteal -p randomly || exit 1; done

# Small faults planted one at a time in a copy: do the tests notice? An hour and more on two cores; see docs/tests.md.
mutants: $(STAMP)/mutants lucernis/web/index.html
	$(PY) -m tools.mutants

bench: $(STAMP)/test $(STAMP)/debian lucernis/web/index.html
	$(PY) -m bench.run

# The typed client follows the served OpenAPI; a test fails while the two differ.
client: $(STAMP)/runtime $(STAMP)/web
	$(PY) -m lucernis.api.contract > web/openapi.json
	cd web && npm run --silent client

docs: $(STAMP)/runtime
	$(PY) -m lucernis.core docs/checks
	$(PY) -m tools.fields

pictures: $(STAMP)/test $(STAMP)/debian lucernis/web/index.html
	$(PY) -m tools.pictures

papers: $(STAMP)/runtime
	$(PY) -m tools.papers

lock: $(STAMP)/test
	$(PY) -m pip install -q --disable-pip-version-check pip-tools==7.6.2
	$(PY) -m piptools compile -q --strip-extras --no-emit-index-url --no-emit-find-links --no-header --generate-hashes -o requirements.txt pyproject.toml
	$(PY) -m piptools compile -q --strip-extras --no-emit-index-url --no-emit-find-links --no-header --generate-hashes --allow-unsafe --extra test -o requirements-test.txt pyproject.toml
	$(PY) -m piptools compile -q --strip-extras --no-emit-index-url --no-emit-find-links --no-header --generate-hashes --allow-unsafe --extra mutants -c requirements-test.txt -o requirements-mutants.txt pyproject.toml

$(STAMP)/venv:
	mkdir -p $(STAMP)
	[ -x $(PY) ] || python3 -m venv .venv
	touch $@

$(STAMP)/runtime: $(STAMP)/venv requirements.txt pyproject.toml
	$(PY) -m pip install -q --disable-pip-version-check -r requirements.txt
	$(PY) -m pip install -q --disable-pip-version-check --no-deps -e .
	touch $@

$(STAMP)/test: $(STAMP)/runtime requirements-test.txt
	$(PY) -m pip install -q --disable-pip-version-check -r requirements-test.txt
	touch $@

$(STAMP)/mutants: $(STAMP)/test requirements-mutants.txt
	$(PY) -m pip install -q --disable-pip-version-check -r requirements-mutants.txt
	touch $@

$(STAMP)/web: web/package-lock.json
	mkdir -p $(STAMP)
	cd web && npm ci --no-audit --no-fund --loglevel=error
	touch $@

lucernis/web/index.html: $(STAMP)/web $(WEB_SRC)
	cd web && npm run --silent build -- --logLevel warn
	touch $@

$(STAMP)/debian:
	mkdir -p $(STAMP)
	command -v chromium >/dev/null && command -v ngspice >/dev/null || { $(SUDO) apt-get update -qq && DEBIAN_FRONTEND=noninteractive $(SUDO) apt-get install -y -qq --no-install-recommends chromium ngspice >/dev/null; }
	touch $@

clean:
	rm -rf .venv $(STAMP) lucernis/web web/node_modules
