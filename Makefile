# Jugata. `make demo` and `make test` are the two commands that a newcomer needs.
SHELL := /bin/bash
.DEFAULT_GOAL := help
ENV := set -euo pipefail; source scripts/env;

.PHONY: demo test lint bench fuzz screenshots pictures types setup web help

demo: setup web ## Set up and start the application with the demo data
	@$(ENV) cargo build --release --locked -p jugata-cli
	@scripts/demo

test: setup web ## Set up and run every test
	@$(ENV) cargo test --workspace --locked

lint: setup web/node_modules/.stamp ## Formatting, clippy, TypeScript, eslint
	@$(ENV) cargo fmt --check
	@$(ENV) cargo clippy --workspace --all-targets --locked -- -D warnings
	@$(ENV) cd web && npx --no-install tsc --noEmit && npx --no-install eslint .

bench: setup ## Run the benchmarks
	@$(ENV) cargo bench --locked -p jugata-core -p jugata-cli

fuzz: ## Run every fuzz target for ten minutes (needs cargo-fuzz: cargo install cargo-fuzz)
	@$(ENV) for t in exr png tiff hdr jpeg gltf cube icc shot font svg; do mkdir -p fuzz/corpus/$$t; RUSTC_BOOTSTRAP=1 cargo fuzz run --sanitizer none $$t fuzz/corpus/$$t fuzz/seeds/$$t -- -max_total_time=600 -rss_limit_mb=2048 -malloc_limit_mb=2048 -timeout=25 -max_len=200000; done

screenshots: setup web ## Refresh docs/screenshots from the demo data
	@$(ENV) JUGATA_SCREENSHOTS=1 cargo test --locked -p jugata-e2e --test e2e_tests screenshots::

pictures: ## Refresh docs/fidelity: pictures against the truth
	@$(ENV) JUGATA_PICTURES=1 cargo test --locked -p jugata-shot --test shot_tests fidelity::

types: ## Write the web's types and the shot file's schema from Rust
	@$(ENV) JUGATA_UPDATE=1 cargo test --locked -p jugata-server --test server_tests types::
	@$(ENV) JUGATA_UPDATE=1 cargo test --locked -p jugata-shot --test shot_tests document::the_schemas

setup: ## Install what is missing (Debian packages, Node.js)
	@scripts/setup

web/node_modules/.stamp: web/package.json web/package-lock.json
	@$(ENV) cd web && npm ci --silent --no-audit --no-fund && touch node_modules/.stamp

WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts web/tsconfig.json
web/dist/index.html: web/node_modules/.stamp $(WEB_SOURCES)
	@$(ENV) cd web && npm run --silent build

web: setup web/dist/index.html ## Build the interface

help: ## This list
	@grep -hE '^[a-z]+:.*## ' $(MAKEFILE_LIST) | sed -E 's/^([a-z]+):.*## /\1\t/' | expand -t 16
