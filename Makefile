# Three commands matter: make demo, make test, make bench. Each sets up what it needs.
PYTHON ?= python3
BIN := .venv/bin
# What all checks may cost together, in processor seconds; lowered as they get cheaper, 0 for as much as they like.
MOST_CPU_S ?= 0
LOOPS := $(wildcard src/mild_compass/craft/kernels/*.[ch])

.PHONY: install install-dev system system-test demo test cover bench mutants campaign hands growth accuracy check-accuracy screenshots scenes bundle deb lock clean

install: .venv/.installed
install-dev: .venv/.installed-dev

.venv/.installed: requirements-build.lock requirements.lock pyproject.toml setup.py $(LOOPS)
	$(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-compile --require-hashes -r requirements-build.lock -r requirements.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation --editable .
	$(BIN)/python -m compileall -q src
	touch $@

.venv/.installed-dev: .venv/.installed requirements-dev.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-compile --require-hashes -r requirements-dev.lock
	touch $@

system:
	@sh tools/system_libraries.sh window

system-test:
	@sh tools/system_libraries.sh window screen
	@sh tools/system_libraries.sh printer reader || echo "Without them the tests with a real printer and a reader are skipped."

demo: system install
	$(BIN)/mild-compass demo

test: system-test install-dev
	$(BIN)/python -m tools.check --most $(MOST_CPU_S)

# All made cases in place of some of each kind, in the window too, and branch coverage of the core, which costs 1.8
# times the suite.
cover: system-test install-dev
	THOROUGH=1 $(BIN)/python -m pytest -n 2 --ignore=tests/studio --cov --cov-report=term:skip-covered
	THOROUGH=1 QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n 2 tests/studio/test_every_instrument.py

bench: system-test install-dev
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks

# Small faults in plan and craft that the tests must notice (about half an hour, not in CI).
mutants: system-test install-dev
	THOROUGH=1 $(BIN)/python -m tools.mutants

# Bad photos, plans, edits and words, kills, full disks, a careless walk (about 20 minutes, not in CI); writes docs/robustness.md.
campaign: system-test install-dev
	$(BIN)/python -m tools.campaign

# Every instrument of every station driven by a careless hand, also where the suite does not go, and at twice the size
# (not in CI).
hands: system-test install-dev
	THOROUGH=1 QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n 2 tests/studio/test_every_instrument.py tests/studio/test_reader.py
	QT_SCALE_FACTOR=2 QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n 2 tests/studio/test_words_fit.py tests/studio/test_every_bench.py

# How right the perspective is on made pictures (about ten minutes, not in CI); writes docs/accuracy.md.
accuracy: install-dev
	$(BIN)/python -W ignore -m tools.accuracy

# How right the check of a drawing is on made photos (about ten minutes, not in CI); writes docs/check-accuracy.md.
check-accuracy: install-dev
	$(BIN)/python -W ignore -m tools.accuracy.checks

# How cost grows with photos, marks, departures, log lines and pixels (about five minutes, not in CI); writes docs/performance.md.
growth: system-test install-dev
	$(BIN)/python -m benchmarks.growth

screenshots: system-test install
	QT_QPA_PLATFORM=offscreen $(BIN)/python tools/screenshots.py

# Renders the demo photographs again with a path tracer in an environment of its own (about half an hour).
scenes:
	$(PYTHON) -m venv .venv-scene
	.venv-scene/bin/python -m pip install --quiet --require-hashes -r requirements-scene.lock
	.venv-scene/bin/python -m tools.scenes

# One folder and one .tar.xz that need no Python, tried in a bare Debian (some minutes; the trial needs root).
bundle: system-test install
	$(BIN)/python -m tools.bundle folder check

# The same as a Debian package.
deb: system-test install
	$(BIN)/python -m tools.bundle folder package check

lock:
	$(BIN)/python -m pip install --quiet pip-tools
	$(BIN)/pip-compile -q --generate-hashes --allow-unsafe --strip-extras --no-annotate --no-emit-index-url --no-emit-find-links -o requirements.lock pyproject.toml
	$(BIN)/pip-compile -q --generate-hashes --allow-unsafe --strip-extras --no-annotate --no-emit-index-url --no-emit-find-links --extra dev -c requirements.lock -o requirements-dev.lock pyproject.toml
	$(BIN)/pip-compile -q --generate-hashes --allow-unsafe --strip-extras --no-annotate --no-emit-index-url --no-emit-find-links --extra bundle -c requirements.lock -o requirements-bundle.lock pyproject.toml
	$(BIN)/pip-compile -q --generate-hashes --allow-unsafe --strip-extras --no-annotate --no-emit-index-url --no-emit-find-links --extra scene -c requirements.lock -o requirements-scene.lock pyproject.toml

clean:
	rm -rf .venv .venv-scene .mypy_cache .ruff_cache .pytest_cache .import_linter_cache
