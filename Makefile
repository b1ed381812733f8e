# make demo and make test set everything up on a machine with Go, Node, npm, make and apt.

export GOFLAGS := -buildvcs=false
# The intersection kernel for AVX2 needs it; without it the plain one is built.
export GOEXPERIMENT := simd
export PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD := 1

LISTEN ?= 127.0.0.1:7741
GO_FILES := $(shell find cmd core demo farm formats library runs server store web -name '*.go' -o -name '*.sql') go.mod go.sum
WEB_FILES := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts web/tsconfig.json

.PHONY: demo build dev test check go-test browser-test bench torture generate screenshots clean
.DEFAULT_GOAL := build

build: bin/perigyre

bin/perigyre: $(GO_FILES) web/dist/index.html
	go build -o $@ ./cmd/perigyre

web/dist/index.html: $(WEB_FILES) .stamps/web
	cd web && npm run --silent build
	@touch web/dist/.keep $@

.stamps/web: web/package.json web/package-lock.json
	cd web && npm ci --no-audit --no-fund
	@mkdir -p .stamps && touch $@

.stamps/e2e: e2e/package.json e2e/package-lock.json
	cd e2e && npm ci --no-audit --no-fund
	@mkdir -p .stamps && touch $@

# Debian's packages that the tests call.
TOOLS := chromium assimp-utils pngcheck imagemagick librsvg2-bin librsvg2-tests ffmpeg openimageio-tools openexr
.stamps/tools:
	@scripts/need $(TOOLS)
	@mkdir -p .stamps && touch $@

demo: bin/perigyre
	bin/perigyre demo --listen $(LISTEN)

# The server with the demonstration, and the front end from its sources beside it.
dev: bin/perigyre
	bin/perigyre demo --listen $(LISTEN) & trap "kill $$!" EXIT; cd web && PERIGYRE_SERVER=http://$(LISTEN) npm run dev

# The document's schema and the front end's types, from the Go types.
generate: .stamps/web
	go run ./cmd/schema shot > .stamps/shot.schema.json && mv .stamps/shot.schema.json core/shot/shot.schema.json
	go run ./cmd/schema > docs/schema.json
	cd web && npm exec --no json2ts -- -i ../docs/schema.json -o src/api/types.gen.ts

test: check go-test browser-test

check: .stamps/web
	go vet ./...
	@test -z "$$(gofmt -l $$(git ls-files -co --exclude-standard '*.go'))" || { echo "gofmt would change:"; gofmt -l $$(git ls-files -co --exclude-standard '*.go'); exit 1; }
	@go run ./cmd/schema | cmp -s - docs/schema.json || { echo "docs/schema.json is older than the Go types: run make generate"; exit 1; }
	@go run ./cmd/schema shot | cmp -s - core/shot/shot.schema.json || { echo "core/shot/shot.schema.json is older than the Go types: run make generate"; exit 1; }
	cd web && npm run --silent check && npm run --silent lint

FUZZ_TIME ?= 5s
go-test: .stamps/tools web/dist/index.html
	go test ./...
	go test -race ./server ./runs ./store
	go test -race -run 'Threads|Strips' ./core/render
	scripts/fuzz $(FUZZ_TIME)

browser-test: bin/perigyre .stamps/e2e .stamps/tools
	cd e2e && npm test

bench: bin/perigyre
	go run ./cmd/bench

# Kills, a full disk, folders taken away, damaged bytes: what holds.
torture: bin/perigyre
	scripts/torture

screenshots: bin/perigyre .stamps/e2e .stamps/tools
	cd e2e && npm run --silent screenshots

clean:
	rm -rf bin .stamps web/node_modules e2e/node_modules web/dist/assets web/dist/index.html web/dist/mark.svg
