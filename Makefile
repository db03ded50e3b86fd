.PHONY: demo test lint bench stress shots

demo:
	@scripts/setup run
	@.venv/bin/orvik demo

test:
	@scripts/setup test
	@scripts/lint test
	.venv/bin/pytest -n 3 --dist worksteal

lint:
	@scripts/setup test
	@scripts/lint

bench:
	@scripts/setup test
	.venv/bin/python -m benchmarks

shots:
	@scripts/setup test
	.venv/bin/python scripts/shots.py

stress:
	@scripts/setup test
	.venv/bin/python -m stress
