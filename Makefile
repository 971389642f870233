# Yembo. Every target works on a fresh machine with Go, Node and Debian's packages;
# demo needs Go alone.
export CGO_ENABLED = 0
GO ?= go

.PHONY: demo demo-past test check race bench hard assets screenshots tools fuzz

demo: ## start on demo data
	$(GO) run ./cmd/yembo demo

demo-past: ## let the ten weeks behind the demo happen anew, after a change of its data
	YEMBO_PAST=$(CURDIR)/shop/past/past.db.gz $(GO) test -count=1 -v -run TestMakePast ./shop/past

test: tools check ## everything that has to pass
	$(GO) test -timeout 30m ./...

check: ## formatting, vet, staticcheck, built assets, licences, classes of the pages
	@test -z "$$(gofmt -l .)" || { echo "not formatted:"; gofmt -l .; exit 1; }
	$(GO) vet ./...
	$(GO) tool staticcheck ./...
	sh scripts/assets.sh
	@git diff --exit-code --stat -- web/ui/static || { echo "web/ui/static is stale: run make assets and commit it"; exit 1; }
	sh scripts/licences.sh cmd/yembo/licences.txt
	@git diff --exit-code --stat -- cmd/yembo/licences.txt || { echo "licences.txt was stale: commit it"; exit 1; }
	$(GO) test ./web/ui

tools: node_modules/.package-lock.json
	@command -v chromium-headless-shell >/dev/null || { apt-get update -qq && apt-get install -y -qq chromium-headless-shell; }

node_modules/.package-lock.json: package-lock.json
	npm ci --no-audit --no-fund --loglevel=error
	@touch $@

race: ## shop and store with the race detector, where there is a C compiler
	@command -v cc >/dev/null || { echo "no C compiler here"; exit 1; }
	CGO_ENABLED=1 $(GO) test -race ./shop/... ./store/...

BENCH ?= .
bench: ## the figures to hold; BASE=commit: beside that commit, with the ratios
ifdef BASE
	GO=$(GO) sh scripts/bench.sh $(BASE) '$(BENCH)'
else
	$(GO) test -run '^$$' -bench '$(BENCH)' -benchmem ./core/... ./exchange/... ./shop ./web ./web/bench
endif

hard: ## killed, without room, many at once, hostile forms, files that do damage, forgetting; some minutes
	YEMBO_HARD=1 $(GO) test -count=1 -v -timeout 40m -run 'TestKilled|TestInvoicesKilled|TestRunKilled|TestSignKilled|TestFull|TestAtOnce|TestManyPeople|TestHostile|TestBombs|TestManyBombs' ./cmd/yembo
	$(GO) test -count=1 -v -run 'TestForgotten|TestChangesHands|TestLastPieces|TestMovementsSumUp' ./shop
	$(GO) test -count=1 -v -run 'TestBackup|TestRestore|TestMoved|TestOldCopyKept' ./store

assets: tools ## build what the pages ship with
	sh scripts/assets.sh

screenshots: tools ## the pictures in docs/screenshots, from the demo data
	mkdir -p docs/screenshots
	YEMBO_SCREENSHOTS=$(CURDIR)/docs/screenshots $(GO) test -count=1 -run TestPictures ./web/browser

FUZZTIME ?= 2m
fuzz: ## each fuzz target for FUZZTIME
	for f in FuzzDecode FuzzSPD; do $(GO) test -run '^$$' -fuzz "^$$f$$" -fuzztime $(FUZZTIME) ./core/label || exit 1; done
	for f in FuzzParse FuzzParsePart; do $(GO) test -run '^$$' -fuzz "^$$f$$" -fuzztime $(FUZZTIME) ./core/shorthand || exit 1; done
	$(GO) test -run '^$$' -fuzz '^FuzzReaders$$' -fuzzminimizetime 5x -fuzztime $(FUZZTIME) ./core/reading
	for f in FuzzChassis FuzzMachine FuzzParts FuzzRequest FuzzTable FuzzObserved; do $(GO) test -run '^$$' -fuzz "^$$f$$" -fuzzminimizetime 5x -fuzztime $(FUZZTIME) ./exchange || exit 1; done
