# Two commands set everything up: `make start` and `make test`.
PY = PYTHONPATH=src .venv/bin/python

.PHONY: start test lint dev bench campaign fuzz chaos shots setup schema types table

start:
	@scripts/setup.sh run
	@exec env PYTHONPATH=src .venv/bin/python -m rhombos.launch.run

test:
	@scripts/setup.sh check
	@$(PY) -m pytest -n 3 --dist loadfile --no-loadscope-reorder

lint:
	@.venv/bin/ruff check src tests
	@PYTHONPATH=src .venv/bin/lint-imports
	@.venv/bin/mypy
	@cd web && npm run -s check && npm run -s test

dev:
	@scripts/setup.sh run
	@scripts/dev.sh

bench:
	@scripts/setup.sh test
	@$(PY) -m tests.bench.run

campaign:
	@scripts/setup.sh test
	@$(PY) -m tests.campaign.run $(SEED)

fuzz:
	@scripts/setup.sh test
	@RHOMBOS_FUZZ=13 $(PY) -m pytest -s --timeout 3600 tests/fuzz

chaos:
	@scripts/setup.sh test
	@$(PY) -m tests.chaos.starts 200

shots:
	@scripts/setup.sh test
	@$(PY) -m tests.ui.shots

schema:
	@$(PY) -m rhombos.cli schema > docs/design.schema.json

# The tables of what rectifiers draw, as loads and without a choke, from their periodic solutions.
table:
	@$(PY) -m rhombos.core.circuit.output.rectifier_table
	@$(PY) -m rhombos.core.circuit.switched.peak_table

types:
	@scripts/interface.sh web/src/api
