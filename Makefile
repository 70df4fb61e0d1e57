# make start and make test are all a newcomer needs.
.PHONY: start test build package demo-reset screenshots bench generate check-go check-web check-generated clean stop test-long

# The Go that go.mod names, fetched where the machine's own is older.
ifndef DAPPER_GO
export DAPPER_GO := $(shell scripts/toolchain)
endif
export GOTOOLCHAIN := $(DAPPER_GO)

# What is built in one clone is found built in the next: nothing holds the place it was built at.
export GOFLAGS := $(strip $(filter-out -trimpath,$(GOFLAGS)) -trimpath)

start:
	@scripts/start

demo-reset:
	@scripts/start --reset-only

test:
	@scripts/test

# Every fuzz test for a minute (or MINUTES), and the program under 512 MB of memory.
test-long: build
	@scripts/test-long

# The steps below are what the two commands are made of.

web_sources := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts web/package-lock.json

build: web/dist/index.html
	go build -o bin/dapper ./cmd/dapper

web/node_modules/.installed: web/package.json web/package-lock.json
	cd web && NODE_OPTIONS="$$NODE_OPTIONS --max-semi-space-size=128" npm ci --prefer-offline --no-audit --no-fund --loglevel=error
	@touch $@

web/dist/index.html: web/node_modules/.installed $(web_sources)
	cd web && npm run --silent build -- --logLevel warn
	@touch web/dist/.gitkeep $@

# The OpenAPI document and the TypeScript types that follow from the Go code.
generate: web/node_modules/.installed
	go run ./cmd/dapper openapi > docs/openapi.json
	cd web && npm run --silent generate

check-generated: web/node_modules/.installed
	@scripts/check-generated

check-go:
	@test -z "$$(gofmt -l cmd internal e2e scripts web/*.go)" || { echo "gofmt wants to change:"; gofmt -l cmd internal e2e scripts web/*.go; exit 1; }
	go vet ./...
	go tool staticcheck ./...

check-web: web/node_modules/.installed
	cd web && { npm run --silent types & types=$$!; npm run --silent lint && wait $$types; } && \
		npm run --silent format:check && npm run --silent test

screenshots: build
	@scripts/need chromium
	SHOTS=$${SHOTS:-$(CURDIR)/docs/screenshots} go test ./e2e -run TestScreenshots -count=1

bench: build
	@scripts/need postgres
	go test -run '^$$' -bench . -benchmem -cpu 1 -p 1 -timeout 30m ./internal/...
	@scripts/need chromium
	go test -run '^$$' -bench . -benchtime 10x -timeout 30m ./e2e
	@scripts/measure-memory

# Static binaries and Debian packages, in dist/.
package:
	@scripts/package

stop:
	@scripts/postgres stop .local/pg
	@scripts/postgres remove .local/pg-test

clean: stop
	rm -rf bin .local web/node_modules web/dist/assets web/dist/index.html
