# make demo         start Wendal with its demo parts
# make test         what every change must pass
# make thorough     the tests that are too long for that
# make quick        style, types, contracts and the quick tests of the core: for the loop of the day
# make bench        measure against the bars of the design
# make hunt         random parts against oracles of their own
# make soak         an hour of everything
# make screenshots  take docs/screenshots anew
# make advisories   ask the registries about known weaknesses
export PATH := $(CURDIR)/.venv/bin:$(PATH)
PYTHON := .venv/bin/python
# What is compiled once is kept: where an environment forbids it, every process compiles all anew, for seconds.
export PYTHONDONTWRITEBYTECODE :=
SOURCES := $(shell find web/src web/public web/index.html web/*.ts web/*.js wendal/api wendal/core -type f -not -name '*.pyc' -not -name generated.ts)

.PHONY: demo start test thorough quick style hunt soak bench screenshots advisories web check types style-web types-web test-web setup
demo start: setup web
	@exec $(PYTHON) -m wendal $@

setup:
	@scripts/setup run

web: web/dist/index.html

web/dist/index.html: $(SOURCES) web/package-lock.json | setup
	@echo "Building the browser side …"
	@mkdir -p var && $(PYTHON) -m wendal openapi > var/openapi.json
	@cd web && npm run --silent types >/dev/null && npm run --silent build -- --logLevel warn
	@touch $@

test:
	@scripts/setup test
	@$(MAKE) --no-print-directory check
	$(PYTHON) -m pytest -n 2 --dist worksteal

# Two at a time, the longest first.
check:
	@$(MAKE) --no-print-directory -j 2 --output-sync=target web types types-web style style-web test-web

style:
	$(PYTHON) -m ruff check
	$(PYTHON) -m ruff format --check -q wendal scripts

types:
	$(PYTHON) -m mypy
	.venv/bin/lint-imports

style-web: | setup
	cd web && npm run --silent format -- --check --log-level warn

types-web: web
	@cd web && npm run --silent check

test-web: web
	@mkdir -p var && $(PYTHON) -m tools.pointer > var/pointer.json
	@cd web && NO_COLOR=1 npm run --silent test

quick:
	@scripts/setup test
	@$(MAKE) --no-print-directory style types
	$(PYTHON) -m pytest -n 2 --dist worksteal tests/core -m "not slow and not thorough"

thorough:
	@scripts/setup test
	@$(MAKE) --no-print-directory web
	$(PYTHON) -m pytest -n 2 --dist worksteal -m thorough

hunt:
	@scripts/setup test
	$(PYTHON) -m tools.hunts

soak:
	@scripts/setup test
	$(PYTHON) -m tools.bench soak

bench:
	@scripts/setup test
	@$(MAKE) --no-print-directory web
	$(PYTHON) -m tools.bench

screenshots:
	@scripts/setup test
	@$(MAKE) --no-print-directory web
	$(PYTHON) -m tools.screenshots

advisories:
	@scripts/setup run
	@$(PYTHON) scripts/advisories.py
