# The two commands: make demo, make test. The rest is for whoever works on Wadium.
SHELL := /bin/bash

.PHONY: demo bring-up test check check-target core-check fuzz coverage perf golden format docs clean packages

packages:
	@. scripts/packages.sh && need_packages "building and testing" $$BUILD_PACKAGES

demo: packages
	@scripts/demo

# docs/board.md, step by step, on the stand-in
bring-up: packages
	@cmake --preset release >/dev/null && cmake --build --preset release --target wadium
	@BUILD=build/release examples/board-bring-up/bring_up.sh

test: packages
	@cmake --preset debug >/dev/null
	@cmake --build --preset debug
	@ctest --test-dir build/debug --output-on-failure -j "$$(nproc)"

check:
	@scripts/check

check-target: packages
	@cmake --preset debug >/dev/null && cmake --build --preset debug --target wadium test_traffic
	@scripts/check-target

# random programs, the stand-in's core against the host: core-check N=500
core-check: packages
	@scripts/core-check $(or $(N),200)

# each reader of files by libFuzzer: fuzz SECONDS=600
fuzz: packages
	@scripts/fuzz $(or $(SECONDS),60)

coverage: packages
	@scripts/coverage

perf: packages
	@cmake --preset release >/dev/null && cmake --build --preset release
	@build/release/perf/perf

golden: packages
	@cmake --preset debug >/dev/null && cmake --build --preset debug --target test_emit wadium
	WADIUM_WRITE_GOLDEN=1 build/debug/tests/test_emit

format:
	clang-format -i $$(git ls-files '*.c' '*.h' | grep -v '^tests/golden/')

docs: packages
	@cmake --preset release >/dev/null && cmake --build --preset release
	@scripts/docs

clean:
	rm -rf build out
