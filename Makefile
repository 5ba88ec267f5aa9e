# One set of flags for everything, so that Go compiles each package once.
FLAGS := -trimpath -tags=nomsgpack
export CGO_ENABLED ?= 1
export npm_config_audit = false
export npm_config_fund = false
export PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD = 1

# Tests lay hundreds of databases down and wait for each of their writes: in memory, where there is room for that and programs may run from it, the whole takes half the time.
SCRATCH := $(shell d=$$(mktemp -d /dev/shm/tingate.XXXXXX 2>/dev/null) || exit 0; printf '\043!/bin/sh\n' > $$d/x; chmod +x $$d/x; \
	$$d/x 2>/dev/null && [ "$$(df -Pk $$d | awk 'NR==2{print $$4}')" -gt 6000000 ] && echo /dev/shm; rm -rf $$d)
ifneq ($(SCRATCH),)
go-test e2e soak defects mutants mutants-named: export TMPDIR = $(SCRATCH)
go-test e2e soak defects mutants mutants-named: export GOTMPDIR = /tmp
endif

# Tests make much and keep little: cleared up less often, they take a quarter less.
go-test soak defects mutants mutants-named: export GOGC = 400

.PHONY: format mutants mutants-named mutants-report cross defects fuzz soak simulator modbus-client screenshots demo test build web types check-types go-test web-check e2e browser speed lint trueness clean

demo: build
	./bin/tingate demo --data .demo

build: web
	go build $(FLAGS) -o bin/tingate ./cmd/tingate

web/node_modules: web/package.json web/package-lock.json
	cd web && npm ci
	@touch web/node_modules

e2e/node_modules: e2e/package.json e2e/package-lock.json
	cd e2e && npm ci
	@touch e2e/node_modules

web: web/node_modules
	cd web && npm run build

# The API's description and the TypeScript types come from the Go types.
types: web/node_modules
	go run $(FLAGS) ./cmd/tingate openapi > server/openapi.json
	cd web && npm run types

check-types: web/node_modules
	go run $(FLAGS) ./cmd/tingate openapi | cmp - server/openapi.json || (echo "server/openapi.json has drifted: run make types"; exit 1)
	cd web && npx openapi-typescript ../server/openapi.json -o /tmp/tingate-schema.$$$$.d.ts >/dev/null && cmp /tmp/tingate-schema.$$$$.d.ts src/app/api/schema.d.ts; r=$$?; rm -f /tmp/tingate-schema.$$$$.d.ts; [ $$r = 0 ] || (echo "schema.d.ts has drifted: run make types"; exit 1)

# What skips, or does a tenth, under the race detector, by name (testtools/arch wants it asked for in tests themselves, so that they are found here).
UNRACED = $(shell awk '/^func /{name=""} /^func Test/{name=$$2; sub("[^A-Za-z0-9_].*", "", name)} /raced\.(On|Skip)/ && name != "" && !seen[name]++ {printf "%s%s", sep, name; sep="|"}' \
	core/stops/*_test.go bench/*_test.go bench/*/*_test.go app/*_test.go server/*_test.go testtools/*/*_test.go)

# The race detector looks at all in which things go side by side. In the rest of the core nothing does (testtools/arch asserts it): that runs without it, and so does once
# more what it leaves out.
go-test:
	go vet $(FLAGS) ./...
	go test $(FLAGS) -race -timeout 30m $$(go list $(FLAGS) ./... | grep -vE '^tingate/core/' ) ./core/stops
	go test $(FLAGS) -timeout 30m $$(go list $(FLAGS) ./core/... | grep -v '/stops$$')
	go test $(FLAGS) -timeout 30m -run '^($(UNRACED))$$' ./core/stops ./bench/... ./app ./server ./testtools/...

# The other systems that it is built for: everything is looked at as their compiler sees it (SQLite is compiled for each, which takes minutes the first time).
cross:
	@set -e; for t in windows/amd64 darwin/arm64 darwin/amd64 linux/arm64; do echo "== $$t"; CGO_ENABLED=0 GOOS=$${t%/*} GOARCH=$${t#*/} go vet $(FLAGS) ./...; done

web-check: web/node_modules
	cd web && npm run check

# A Modbus client that others wrote, from Debian's packages: the stand-in is tried against it.
modbus-client:
	@/usr/bin/python3 -c "import pymodbus.client" 2>/dev/null || (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends python3-pymodbus python3-serial-asyncio) || echo "python3-pymodbus could not be installed: its test is left out"

# A circuit simulator that others wrote, from Debian's packages: the circuit engine is held against it.
simulator:
	@test -x /usr/bin/ngspice || (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends ngspice) || echo "ngspice could not be installed: its test is left out"

browser:
	@test -x /usr/bin/chromium || (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium)

e2e: build e2e/node_modules browser
	cd e2e && npx playwright test

test: modbus-client simulator go-test check-types web-check e2e

# Every reader of what others wrote, a minute each, from the corpora that are kept beside the tests. A new failing input is kept there too.
FUZZ_TIME ?= 60s
fuzz:
	@set -e; for p in $$(go list $(FLAGS) ./...); do \
	  for f in $$(go test $(FLAGS) -list '^Fuzz' $$p | grep '^Fuzz' || true); do \
	    echo "== $$p $$f"; go test $(FLAGS) -run '^$$' -fuzz "^$$f\$$" -fuzztime $(FUZZ_TIME) $$p | tail -4; \
	  done; done

# The seeded trials in their full number; make test runs the first tenth of each.
soak:
	TINGATE_SOAK=1 go test $(FLAGS) -count=1 -timeout 150m -v -run 'Killed|Flipped|Backup|Mutated|NoContradictions|TwoBreakages' ./cmd/tingate ./app ./server ./bench | grep -vE '^(=== |time=|[0-9]{4}/)'

speed:
	go test $(FLAGS) -run '^$$' -bench . -benchmem ./core/... ./app/... ./calc/... ./formats/...

# Breaks lines and orders what stands in them, in Go (sentences are broken by hand: testtools/arch counts) and TypeScript.
format: web/node_modules
	go tool -modfile=tools/lint/go.mod golangci-lint fmt ./...
	cd web && npm run format -- --write

lint:
	go tool -modfile=tools/lint/go.mod golangci-lint run ./...

screenshots: build e2e/node_modules browser
	cd e2e && node screenshots.mjs

trueness:
	@rm -f /tmp/tingate-trueness.jsonl
	TRUENESS_OUT=/tmp/tingate-trueness.jsonl go test $(FLAGS) -count=1 ./core/... ./calc/... ./bench/... ./link/... ./app/... ./formats/... ./testtools/spice >/dev/null
	go run $(FLAGS) ./testtools/trueness /tmp/tingate-trueness.jsonl > docs/trueness.md

clean:
	rm -rf bin .demo web/dist/assets web/dist/index.html

# Faults that were mended are put back, one at a time: the walk over random jobs must find them (docs/defects.md).
defects:
	go run $(FLAGS) ./testtools/defects

# Small changes of a package, drawn by a seed: its own tests must notice them. It goes on where it was left. docs/mutants.md says what came of it.
N ?= 150
SEED ?= 18
mutants:
	go run $(FLAGS) ./testtools/mutants draw $(PKG) $(N) $(SEED)

mutants-named:
	go run $(FLAGS) ./testtools/mutants named

mutants-report:
	go run $(FLAGS) ./testtools/mutants report
