# Two commands set up a fresh machine: `make demo` and `make test`.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/installed
# Modules are compiled once, not anew by each of the thousand programs that the tests start.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo test bench law ordinary fuzz lint types unit checkers system editors

demo: $(STAMP)
	$(BIN)/worn demo worn-demo

# The lock pins every package; the project itself is installed as it stands in this folder.
$(STAMP): requirements.lock pyproject.toml
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --requirement requirements.lock
	$(BIN)/python -m pip install --quiet --no-deps --no-build-isolation --editable .
	touch $@

test: $(STAMP) system checkers lint types unit

lint:
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/lint-imports
	$(BIN)/python tools/reference.py --check

types:
	$(BIN)/mypy

unit:
	$(BIN)/python -m tests

# What the tests need beside Python: a browser, a PDF reader, Java for the checker of HTML, R, a database server, an office program, an editor, a TeX.
system:
	tools/system-packages chromium chromium-driver poppler-utils default-jre-headless npm r-base-core r-recommended r-cran-ggplot2 postgresql libreoffice-writer libreoffice-impress libreoffice-math libreoffice-calc python3-uno neovim texlive-latex-recommended texlive-luatex lmodern

checkers: tests/checkers/node_modules/.package-lock.json

tests/checkers/node_modules/.package-lock.json: tests/checkers/package-lock.json | system
	cd tests/checkers && npm ci --no-audit --no-fund --loglevel=error
	touch $@

# Made-up pages that try the law: `make law N=2000`.
N := 1000
law: $(STAMP)
	$(BIN)/python -m tests.law $(N)

# Ordinary pages that are hard on the law, written by hand.
ordinary: $(STAMP)
	$(BIN)/python -m tests.law.ordinary

# Random inputs for all that reads what strangers write, for five minutes.
fuzz: $(STAMP)
	$(BIN)/python -m tests.fuzz 300

# What is added to editors, to be unpacked where they look for it.
editors: $(STAMP)
	$(BIN)/python tools/pack_editors.py dist

bench: $(STAMP) system
	$(BIN)/python -m benchmarks
