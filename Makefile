# Commands of the house. `make demo` and `make test` work from nothing on Debian with Python 3.11 and Node 20.
PY := .venv/bin/python
PYTHON ?= python3
# what does not wait for one another is fetched side by side
MAKEFLAGS += --jobs=2
# compiled once, read by each of the many processes the tests start
unexport PYTHONDONTWRITEBYTECODE

.PHONY: setup demo serve test test-web collected one-way chromium broad lint lint-core lint-web format matrix harden fuzz validate fit bench same test-postgres mutants sweep screenshots types lock clean share
setup: .venv/.ready src/sphagnum/web_dist/index.html

# of pytest: what is broad too
EVERY := -m ""

# What running needs; the checks need .venv/.tested, which holds more and all of that too.
.venv/.ready: requirements-run.lock pyproject.toml
	test -x $(PY) || $(PYTHON) -m venv .venv
	$(PY) -m pip install --quiet --no-compile --upgrade pip  # a newer one finds what is needed in half the time
	$(PY) -m pip install --quiet --no-compile -r requirements-run.lock
	$(PY) -m pip install --quiet --no-deps -e .
	$(PY) -m compileall -q src
	touch $@

.venv/.tested: .venv/.ready requirements.lock
	$(PY) -m pip install --quiet --no-compile -r requirements.lock
	touch $@

web/node_modules/.ready: web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	touch $@

src/sphagnum/web_dist/index.html: web/node_modules/.ready $(shell find web/src web/index.html web/public web/vite.config.ts -type f)
	cd web && npm run --silent build

# The demo with all its pieces laid out, packed for the code as it is; the command seeds and lays out by itself without it.
src/sphagnum/seeded/.ready: .venv/.ready $(shell find src/sphagnum -name '*.py' -o -name '*.toml')
	$(PY) scripts/pack_demo.py
	touch $@

demo: setup src/sphagnum/seeded/.ready
	.venv/bin/sphagnum demo

serve: setup
	.venv/bin/sphagnum serve

lint: lint-core lint-web

lint-core: .venv/.tested
	.venv/bin/ruff check src tests scripts
	.venv/bin/mypy
	$(PY) scripts/contracts.py --check  # make types writes them anew

lint-web: src/sphagnum/web_dist/index.html
	cd web && npm run --silent check

# imports go one way through the house
one-way: .venv/.tested
	.venv/bin/lint-imports

# the tests compiled once, while the demo is packed: each worker would do it for itself
collected: .venv/.tested
	-$(PY) -m pytest --collect-only -qq -n0 >/dev/null  # what is wrong with them is said when they run

test-web: src/sphagnum/web_dist/index.html
	cd web && npm run --silent test

chromium:
	@(command -v chromium && command -v certutil) >/dev/null || (apt-get update -qq && apt-get install -y -qq chromium libnss3-tools)
	@command -v chromium-headless-shell >/dev/null || apt-get install -y -qq chromium-headless-shell || true

format: web/node_modules/.ready
	cd web && npm run --silent format

# all that is installed is fetched side by side; what is broad is left to targets of its own
test:
	$(MAKE) --no-print-directory -j3 --output-sync=target \
		chromium one-way test-web collected src/sphagnum/seeded/.ready
	$(PY) -m pytest --durations=20

# whole ways through several screens and a great many cases: about as long again
broad: setup .venv/.tested src/sphagnum/seeded/.ready chromium
	$(PY) -m pytest -m broad --durations=20

matrix: setup .venv/.tested chromium
	MATRIX=full $(PY) -m pytest $(EVERY) tests/browser/test_matrix.py tests/browser/test_set_aside.py tests/api/test_units.py

harden: setup .venv/.tested
	$(PY) scripts/harden.py

# the fuzzer has an environment of its own: it needs other versions of what the tests use
.venv-fuzz/bin/st:
	$(PYTHON) -m venv .venv-fuzz
	.venv-fuzz/bin/pip install --quiet schemathesis==4.32.5

fuzz: setup .venv-fuzz/bin/st
	$(PY) scripts/fuzz.py .venv-fuzz/bin/st

validate: setup .venv/.tested
	$(PY) scripts/validate.py --write

# about ten minutes: the constants of the models anew, and with each family of published walls left out
fit: setup .venv/.tested
	$(PY) scripts/fit.py --left-out

mutants: setup .venv/.tested
	$(PY) scripts/mutants.py --sample $(or $(SAMPLE),0)

# how large the tests are beside the code
share: .venv/.ready
	$(PY) scripts/share.py

sweep: setup .venv/.tested
	SWEEP=5000 $(PY) -m pytest $(EVERY) tests/core/test_limits.py
	SWEEP=400 $(PY) -m pytest $(EVERY) tests/core/test_nesting.py
	SWEEP_PLANS=40 $(PY) -m pytest $(EVERY) tests/core/test_plan_money.py
	SWEEP_SENSE=60 $(PY) -m pytest $(EVERY) tests/core/test_plan_sense.py
	SWEEP_PROMISES=44 $(PY) -m pytest $(EVERY) tests/core/test_promises.py
	SWEEP_ORDERS=300 $(PY) -m pytest $(EVERY) tests/core/test_order.py
	SWEEP_PLANS=40 $(PY) -m pytest $(EVERY) tests/api/test_plan_job.py
	SWEEP_BOXES=200 $(PY) -m pytest $(EVERY) tests/core/test_hoods.py tests/core/test_platforms.py
	SWEEP_SERIES=1000 $(PY) -m pytest $(EVERY) tests/core/test_bench.py
	SWEEP_PAPERS=60 $(PY) -m pytest $(EVERY) tests/core/test_paper_layout.py
	SWEEP_ROOMS=300 $(PY) -m pytest $(EVERY) tests/core/test_builds.py

bench: setup .venv/.tested chromium
	$(PY) scripts/bench.py
	$(PY) scripts/bench_nest.py
	$(PY) scripts/bench_board.py
	$(PY) scripts/bench_page.py
	$(PY) scripts/bench_first.py --before $(or $(BEFORE),03507a3)
	$(PY) scripts/bench_load.py --before $(or $(BEFORE),02f0e7e)

test-postgres: setup .venv/.tested
	command -v /usr/lib/postgresql/*/bin/initdb >/dev/null || (apt-get update -qq && apt-get install -y -qq postgresql)
	$(PY) scripts/with_postgres.py $(PY) -m pytest $(EVERY) tests/api/test_store.py tests/api/test_edits.py tests/api/test_workshop.py tests/api/test_api.py tests/api/test_preview.py

same: setup
	$(PY) scripts/same_output.py $(or $(AGAINST),HEAD)

screenshots: setup .venv/.tested chromium
	$(PY) scripts/screenshots.py

types: .venv/.tested web/node_modules/.ready
	$(PY) scripts/contracts.py
	cd web && npm run --silent types

LOCK := -m piptools compile --quiet --no-emit-index-url --no-emit-find-links --no-emit-trusted-host --strip-extras
lock:
	test -x $(PY) || $(PYTHON) -m venv .venv
	$(PY) -m pip install --quiet pip-tools
	$(PY) $(LOCK) -o requirements-run.lock pyproject.toml
	$(PY) $(LOCK) --extra dev -o requirements.lock pyproject.toml

clean:
	rm -rf .venv .venv-fuzz web/node_modules src/sphagnum/web_dist src/sphagnum/seeded
