.PHONY: demo test sweep mutants lint bench stress shots

demo:
	@scripts/setup run
	@.venv/bin/orvik demo

# The code is looked over while the first tests wait for the demo to be made. Python keeps what it has compiled, also
# where the surroundings say otherwise: hundreds of processes would each compile all of it anew.
test:
	@scripts/setup test
	@said=$$(mktemp); scripts/lint test >$$said 2>&1 & lint=$$!; \
	env -u PYTHONDONTWRITEBYTECODE .venv/bin/pytest -n 3 --dist worksteal --durations 25 --durations-min 5; tested=$$?; \
	wait $$lint; linted=$$?; cat $$said; rm -f $$said; \
	[ $$tested = 0 ] && [ $$linted = 0 ]

# What draws at random draws forty times as many examples, and every domain is looked at
# whole, and every walk through a browser is taken. Alone on the machine: two hours.
sweep:
	@scripts/setup test
	ORVIK_EXAMPLES=many .venv/bin/pytest -n 2 -m "hypothesis or sampled or sweep or journey" --timeout 7200 --durations 40

# Where a wrong character makes a wrong map, each is changed in turn; some test must fail. Alone on the machine: an hour.
mutants:
	@scripts/setup test
	.venv/bin/python scripts/mutants.py

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
