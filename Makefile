# The tasks of a contributor; .ci/run does the same checks. Needs: pip install -e '.[test]'
.PHONY: check lint types contracts test attack manual format checked

check: lint types contracts test attack manual

lint:
	ruff check .
	ruff format --check .

types:
	mypy

contracts:
	lint-imports

test:
	pytest

# Mutated extracts, random recipes, damaged files of every format: no fault of any kind.
attack:
	python -m bench.attack --extracts 500 --recipes 500 --seed 7
	python -m bench.attack.readers --cases 100 --seed 7

# docs/manual.md is what the declarations say.
manual:
	python -m mangler.manual | diff docs/manual.md -

# Needs kernels that were installed with MANGLER_BUILD=checked. Python itself keeps memory to its end.
checked:
	LD_PRELOAD="$$(gcc -print-file-name=libasan.so) $$(gcc -print-file-name=libubsan.so)" \
	ASAN_OPTIONS=detect_leaks=0 MANGLER_KERNELS=compiled PYTHONMALLOC=malloc \
	pytest --numprocesses=2 tests/kernels tests/formats/delimited

format:
	ruff check --fix .
	ruff format .
	python -m mangler.manual > docs/manual.md
