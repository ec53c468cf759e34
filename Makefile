# make demo   start Wendal with its demo parts          make bench         measure against the bars of the design
# make test   everything that is checked                make screenshots   take docs/screenshots anew     make soak   an hour of everything
#                                                       make advisories    ask the registries about known weaknesses
export PATH := $(CURDIR)/.venv/bin:$(PATH)
PYTHON := .venv/bin/python
SOURCES := $(shell find web/src web/public web/index.html web/*.ts web/*.js wendal/api wendal/core -type f -not -name '*.pyc' -not -name generated.ts)

.PHONY: demo start test soak bench screenshots advisories web check setup
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
	@$(MAKE) --no-print-directory check web
	$(PYTHON) -m pytest -n 2 --dist worksteal

check: web
	$(PYTHON) -m ruff check
	$(PYTHON) -m ruff format --check -q wendal scripts
	$(PYTHON) -m mypy
	.venv/bin/lint-imports
	@mkdir -p var && $(PYTHON) -m tests.pointer > var/pointer.json
	cd web && npm run --silent format -- --check --log-level warn && npm run --silent check && NO_COLOR=1 npm run --silent test

soak:
	@scripts/setup test
	$(PYTHON) -m tests.bench soak

bench:
	@scripts/setup test
	@$(MAKE) --no-print-directory web
	$(PYTHON) -m tests.bench

screenshots:
	@scripts/setup test
	@$(MAKE) --no-print-directory web
	$(PYTHON) -m tests.screenshots

advisories:
	@scripts/setup run
	@$(PYTHON) scripts/advisories.py
