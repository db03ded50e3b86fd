.PHONY: demo test bench stress shots

demo:
	@scripts/setup run
	@.venv/bin/orvik demo

test:
	@scripts/setup test
	.venv/bin/ruff check src tests benchmarks stress scripts
	.venv/bin/ruff format --check src tests benchmarks stress scripts
	.venv/bin/lint-imports --no-logo
	.venv/bin/mypy
	.venv/bin/pytest -n 4

bench:
	@scripts/setup test
	.venv/bin/python -m benchmarks

shots:
	@scripts/setup test
	.venv/bin/python scripts/shots.py

stress:
	@scripts/setup test
	.venv/bin/python -m stress
