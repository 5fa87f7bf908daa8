# Two commands do everything: `make demo` and `make test`. The rest is for those who change Waldhorn (CONTRIBUTING.md).
PY := .venv/bin/python
RUN := .venv/.installed-$(shell cat requirements-build.txt requirements.txt pyproject.toml | sha256sum | cut -c1-16)
DEV := .venv/.installed-dev-$(shell cat requirements-build.txt requirements.txt requirements-dev.txt pyproject.toml | sha256sum | cut -c1-16)
NODE := frontend/node_modules/.installed-$(shell sha256sum < frontend/package-lock.json | cut -c1-16)
APT := $(shell [ "$$(id -u)" = 0 ] || echo sudo) apt-get

# pytest keeps what it makes of a test file, or every worker would make it anew at every run.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo test test-fast test-slow lint check mutants bench bench-pit attack judge-eval screenshots frontend lock clean

demo: $(RUN)
	.venv/bin/waldhorn demo

test: $(DEV) $(NODE) browser
	$(PY) -m pytest -n 2 -m "not long"

test-fast: $(DEV)
	$(PY) -m pytest -n 2 -m "not slow and not long" --ignore=tests/browser

test-slow: $(DEV) $(NODE) browser
	$(PY) -m pytest -n 2 -m long

check: lint
	$(PY) -m pytest -n 2

lint: $(DEV) $(NODE)
	.venv/bin/ruff format --check
	.venv/bin/ruff check
	.venv/bin/mypy
	.venv/bin/lint-imports
	.venv/bin/djlint --lint --quiet src/waldhorn/web
	cd frontend && npx --no-install prettier --check --log-level warn . ../src/waldhorn/web/static/app
	$(PY) scripts/check_frontend.py
	$(PY) scripts/check_dead_code.py

bench: $(DEV) $(NODE) browser
	$(PY) scripts/bench.py
	$(PY) scripts/bench_live.py
	$(PY) scripts/bench_busy.py

bench-pit: $(DEV)
	$(PY) scripts/bench_pit.py
	$(PY) scripts/bench_pit.py --kills 200

attack: $(DEV)
	$(PY) scripts/attack.py

mutants: $(DEV)
	$(PY) scripts/mutants.py

judge-eval: $(RUN)
	$(PY) scripts/judge_eval.py

screenshots: $(DEV) $(NODE) browser
	$(PY) scripts/screenshots.py

frontend: $(NODE)
	node frontend/build.mjs

lock: $(DEV)
	.venv/bin/pip-compile --quiet --generate-hashes --no-emit-index-url --no-emit-options --strip-extras --allow-unsafe --upgrade -o requirements-build.txt requirements-build.in
	.venv/bin/pip-compile --quiet --generate-hashes --no-emit-index-url --no-emit-options --strip-extras --upgrade -o requirements.txt requirements.in
	.venv/bin/pip-compile --quiet --generate-hashes --no-emit-index-url --no-emit-options --strip-extras --allow-unsafe --upgrade -o requirements-dev.txt requirements-dev.in

.PHONY: browser
browser:
	@command -v chromium-headless-shell >/dev/null || { $(APT) update -qq && $(APT) install -y -qq chromium-headless-shell; } \
	|| command -v chromium >/dev/null || $(APT) install -y -qq chromium

.venv/bin/python:
	python3 -m venv .venv

$(RUN): | .venv/bin/python
	$(PY) -m pip install --quiet --require-hashes -r requirements-build.txt -r requirements.txt
	$(PY) -m pip install --quiet --no-build-isolation --no-deps -e .
	touch $@

$(DEV): $(RUN)
	$(PY) -m pip install --quiet --require-hashes -r requirements-dev.txt
	touch $@

$(NODE):
	@command -v npm >/dev/null || { $(APT) update -qq && $(APT) install -y -qq nodejs npm; }
	cd frontend && npm ci --ignore-scripts --silent
	touch $@

clean:
	rm -rf .venv frontend/node_modules
