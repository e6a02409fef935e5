SHELL := /bin/sh
PORT ?= 8080
export PORT
GO_SOURCES := $(shell find cmd internal web/embed.go -name '*.go' -o -name '*.sql') go.mod go.sum
WEB_SOURCES := $(shell find web/src web/worker web/public web/index.html -type f) web/package-lock.json \
	web/vite.config.ts web/tsconfig.json
BENCH_SOURCES := $(shell find cmd/benchwasm internal/core -name '*.go') go.mod

.PHONY: help demo demo-reset test test-long test-changed test-fast fuzz mutate count dev lint bench screenshots build types check-types

help: ## this list
	@sed -n 's/^\([a-z-]*\):.*## \(.*\)/make \1	\2/p' Makefile | expand -t 20

demo: bin/wardifex ## install what is missing, build, start PostgreSQL and the demo room at http://127.0.0.1:8080 (PORT overrides)
	@scripts/need.sh postgres
	@exec bin/wardifex demo

demo-reset: bin/wardifex ## throw the demo's data away; the next make demo starts over
	@scripts/need.sh postgres
	@bin/wardifex demo reset

# The core's tests of several goroutines at once. test-long has the race detector over everything.
AT_ONCE = 'AtOnce|AllShapes|Pieces|CutAnywhere'

# How long each test took is kept in bin/times.jsonl, and the slowest are shown. BUDGET=12m fails what takes longer.
BUDGET ?= 0
RUN = bin/testrun -to bin/times.jsonl --

test: ## everything but what is long: types, lint, core, store, server, browser; the ten slowest tests at its end
	@mkdir -p bin && rm -f bin/times.jsonl && date +%s > bin/began
	@$(MAKE) --no-print-directory -j2 --output-sync=target build check-types lint bin/testrun
	@scripts/need.sh postgres chromium
	$(RUN) -race -short -count=1 -timeout 10m -run $(AT_ONCE) ./internal/core/fit ./internal/core/printfile
	$(RUN) -short -count=1 -timeout 10m ./internal/core/... ./internal/app ./internal/goldentest ./scripts/...
	$(RUN) -short -count=1 -timeout 10m ./cmd/... ./internal/demo ./internal/ical ./internal/picture ./internal/postgres ./internal/server ./internal/store
	$(RUN) -short -count=1 -parallel 3 -timeout 15m ./e2e
	@bin/testrun -show bin/times.jsonl -began $$(cat bin/began) -budget $(BUDGET)

bin/testrun: $(wildcard scripts/testrun/*.go)
	go build -o $@ ./scripts/testrun

test-long: build ## what takes long: properties over many cases, 30,000 hostile requests, kills, all with the race detector
	@scripts/need.sh postgres
	WARDIFEX_LONG=1 go test -race -count=1 -timeout 60m ./internal/... ./cmd/...
	WARDIFEX_LONG=1 go test -count=1 -timeout 60m -run TestEveryView ./e2e

SINCE ?= HEAD~1
test-changed: build ## the long tests of what changed since SINCE, for at most 25 minutes; what did not run is listed
	@scripts/need.sh postgres chromium
	@scripts/long_tests.sh $(SINCE) 1500

count: ## hand-written lines, and which part of them are tests (25 to 33 %)
	@scripts/count.sh

OF ?= core
SEED ?= 1
N ?= 200
mutate: ## change one place at a time, N drawn by SEED from all of OF (core or app), and count what the tests notice
	@scripts/need.sh postgres
	@go run ./scripts/mutate -of $(OF) -seed $(SEED) -n $(N)

T ?= 30s
fuzz: ## every reader of outside text for T each (T=10m); what is found is kept in testdata and run by make test
	@scripts/fuzz.sh $(T)

test-fast: ## the core alone, in seconds
	go test ./internal/core/...

dev: bin/wardifex ## the demo with the front end reloading at http://127.0.0.1:5173
	@scripts/need.sh postgres
	@bin/wardifex demo & demo=$$!; trap 'kill $$demo; wait $$demo' INT TERM EXIT; cd web && npx vite

lint: web/node_modules/.installed ## gofmt, line lengths, arrows of the front end, vet, staticcheck, biome, tsc
	@test -z "$$(gofmt -l cmd internal e2e scripts web/embed.go)" || { echo "not gofmt'ed:"; gofmt -l cmd internal e2e scripts web/embed.go; exit 1; }
	@scripts/long_lines.sh
	@scripts/front_arrows.sh
	go vet ./...
	GOOS=js GOARCH=wasm go vet ./cmd/benchwasm
	go tool staticcheck ./...
	cd web && npm run --silent lint

bench: build ## ratios: standing values, verdicts, the fleet table's answer, an import; 1,000 machines under load, 5,000 on the screen
	@scripts/need.sh postgres
	@go test ./internal/core/... ./internal/ical ./internal/server -run '^$$' -bench . -benchtime 20x
	@WARDIFEX_LOAD=1 go test ./internal/app -run 'TestImportIsFast|TestALongOrderIsQuick|TestFleetDriftIsQuick' -count=1 -v
	@WARDIFEX_LOAD=1 go test ./internal/demo -run TestALargeRecordIsFast -count=1 -v
	@WARDIFEX_LOAD=1 go test ./internal/server -run TestUnderLoad -count=1 -v
	@WARDIFEX_LOAD=1 go test ./e2e -run TestALargeFarm -count=1 -v

screenshots: build ## the pictures of the README, from the demo data
	@scripts/need.sh postgres chromium
	WARDIFEX_SCREENSHOTS=$(CURDIR)/docs/screenshots go test ./e2e -run TestScreenshots -count=1

build: bin/wardifex ## the binary with the front end in it

types: web/node_modules/.installed ## write the OpenAPI document, the file formats' schemas and the front end's types anew
	go run ./cmd/wardifex openapi > docs/openapi.json
	for f in catalogue record; do go run ./cmd/wardifex schema $$f > docs/$$f.schema.json; done
	cd web && npm run --silent types

check-types: web/node_modules/.installed ## fail when the committed API types are not those of the Go types
	@mkdir -p bin
	@go run ./cmd/wardifex openapi > bin/openapi.json
	@cmp bin/openapi.json docs/openapi.json || { echo "docs/openapi.json is stale: run make types"; exit 1; }
	@cd web && npx --no-install openapi-typescript ../bin/openapi.json -o ../bin/schema.gen.ts >/dev/null && cmp ../bin/schema.gen.ts src/api/schema.gen.ts || { echo "web/src/api/schema.gen.ts is stale: run make types"; exit 1; }

bin/wardifex: $(GO_SOURCES) web/dist/index.html
	go build -o $@ ./cmd/wardifex

web/dist/index.html: $(WEB_SOURCES) web/bench/bench.wasm web/node_modules/.installed
	cd web && npm run --silent build

web/bench/bench.wasm: $(BENCH_SOURCES) # the sums for a browser without a connection, with Go's runtime for it
	@mkdir -p web/bench
	cp "$$(go env GOROOT)/lib/wasm/wasm_exec.js" web/bench/wasm_exec.js
	GOOS=js GOARCH=wasm go build -trimpath -ldflags="-s -w" -o $@ ./cmd/benchwasm

web/node_modules/.installed: web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@
