# The scripts do the work; this only offers them by short names.
.PHONY: help demo test build dev api format law bench shots
help: ## this list
	@grep -hE '^[a-z]+:.*##' $(MAKEFILE_LIST) | sed 's/:.*## /\t/' | expand -t 12
demo: ## install, build, start with the demo data
	scripts/demo
test: ## everything that must pass
	scripts/test
build: ## front end and binary, into bin/coatrack
	cd ui && npm ci && npx vite build
	CGO_ENABLED=0 go build -trimpath -o bin/coatrack ./cmd/coatrack
dev: ## hot reload of the front end; start scripts/demo beside it
	cd ui && npx vite
api: ## renew the OpenAPI document and the front end's types
	go run ./cmd/coatrack openapi > internal/api/openapi.json
	cd ui && npx openapi-typescript ../internal/api/openapi.json -o src/api/schema.d.ts
format: ## format everything
	go run mvdan.cc/gofumpt@v0.12.0 -w cmd internal e2e ui/*.go
	cd ui && npx prettier --write src
law: ## the law of reading over 20,000 drawn files
	go test -count=1 -timeout 60m -run TheLawOfReading ./internal/files -rapid.checks=2900
bench: ## the figures of docs/performance.md
	go test -run '^$$' -bench . -benchtime 1x -timeout 30m ./bench ./e2e
shots: ## renew docs/screenshots from the demo data
	COATRACK_SHOTS=../docs/screenshots go test -count=1 -run TestScreenshots ./e2e
