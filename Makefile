# Zealous Margin. Two commands do everything on a fresh machine: make demo, make test.
PORT ?= 8470
GO ?= go
BIN := bin/zealous-margin
SOURCES := $(shell find cmd internal demo -name '*.go' -o -name '*.html' -o -name '*.js' -o -name '*.css' -o -name '*.sql') go.mod go.sum

# What is compiled does not depend on where the source lies: another clone, or another machine with the same cache, compiles nothing again.
export GOFLAGS := -trimpath $(GOFLAGS)

# Tests and the compiler have memory to spare, and collect it less often.
test race fuzz lint: export GOGC = 800
test race fuzz lint: export GOMEMLIMIT = 2GiB

.PHONY: demo demo-reset test test-all race vulnerabilities fuzz bench trust readers lint css screenshots build

build: $(BIN)

$(BIN): $(SOURCES)
	$(GO) build -o $@ ./cmd/zealous-margin

demo: ## start the application with the demo office
	@scripts/install run
	@$(MAKE) --no-print-directory build
	@scripts/postgres demo 5470 $(BIN) demo --address 127.0.0.1:$(PORT)

demo-reset: ## throw the demo office's data away and start afresh
	@scripts/install run
	@scripts/postgres demo 5470 --reset
	@$(MAKE) --no-print-directory demo

test: node_modules $(BIN) ## all tests, with databases of their own
	@scripts/postgres test 5480 $(GO) test -count=1 -vet=off -ldflags='-s -w' -p 3 -timeout 25m ./...

test-all: export ZM_ALL = yes
test-all: test ## the same, with every form of other makers and every property in every reader, not a fresh sample of them

race: node_modules ## what runs side by side: the store, the queue, the handlers, and copies that are filled in at once
	@scripts/postgres test 5480 $(GO) test -race -vet=off -count=1 -timeout 20m -skip 'SurvivesTheEnd|AFolderIsWorkedThrough|ScansComeFromTheTray' \
		./internal/store ./internal/jobs ./internal/web
	@$(GO) test -race -vet=off -count=1 -run 'SideBySide' ./internal/pdf

vulnerabilities: ## known faults of what we use, where the list of them can be reached
	@if curl -fsS --max-time 10 -o /dev/null https://vuln.go.dev/index/db.json 2>/dev/null; then $(GO) tool govulncheck ./...; \
	else echo "the list of vulnerabilities (vuln.go.dev) cannot be reached from here: not checked"; fi

# Each room by itself, thousands of inputs a second; what was found stands in testdata and is tried by every test.
FUZZ := FuzzRooms:./internal/pdf FuzzControls:./internal/intake FuzzPictures:./internal/intake FuzzParseFormula:./internal/rules \
	FuzzBuilder:./internal/evidence FuzzAnswers:./internal/pdf

fuzz: node_modules ## feed the rooms with broken files and formulas, ten minutes each unless FUZZTIME says otherwise
	@set -e; for f in $(FUZZ); do $(GO) test -run '^$$' -fuzz "$${f%%:*}" -fuzztime $(or $(FUZZTIME),10m) -fuzzminimizetime 1x "$${f##*:}"; done

bench: node_modules $(BIN) ## print the measurements
	@$(GO) run ./e2e/printed tmp/printed
	@scripts/postgres test 5480 $(BIN) bench --printed tmp/printed
	@$(BIN) bench --only finding --seed 1 --count 120
	@$(BIN) bench --only finding --seed 1 --count 18 --scans
	@scripts/postgres test 5480 $(GO) test ./e2e -run '^$$' -bench . -benchtime 3x -count=1

trust: node_modules $(BIN) ## attack a server of its own, and put faults where work is done: all on loopback, some minutes
	@scripts/postgres test 5480 $(BIN) bench --only trust
	@scripts/postgres test 5480 $(GO) test -count=1 -v -run 'Survives|GivenUp|NoJob' ./internal/jobs | grep -v '^=== '
	@$(GO) test -count=1 -v ./internal/pdf/engine | grep -v '^=== '

readers: node_modules ## try a form with everything in five readers of other makes, and write docs/readers.md
	@$(GO) run ./e2e/readers/table > docs/readers.md.new && mv docs/readers.md.new docs/readers.md
	@cat docs/readers.md

lint: ## vet, staticcheck, gofumpt, and the rooms in their places
	$(GO) vet ./...
	$(GO) test -count=1 ./internal
	$(GO) tool staticcheck ./...
	@out=$$($(GO) tool gofumpt -l cmd demo e2e internal); [ -z "$$out" ] || { echo "gofumpt would change:"; echo "$$out"; exit 1; }

css: ## build the styles and copy the shipped scripts and typefaces
	npm install --no-save --no-package-lock --ignore-scripts --no-audit --no-fund --loglevel=error
	npx --no-install @tailwindcss/cli -i assets/app.css -o internal/web/static/app.css --minify
	scripts/vendor

screenshots: $(BIN) ## remake docs/screenshots from the demo data
	@scripts/install test
	@scripts/screenshots

# Exact versions stand in package.json; a lock file would list platform packages that not every registry serves.
node_modules: package.json
	@scripts/install test
	npm install --no-save --no-package-lock --ignore-scripts --omit=optional --no-audit --no-fund --loglevel=error
	@touch node_modules
