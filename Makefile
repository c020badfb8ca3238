# Long Ladder. `make help` lists the targets.

LIBRARY := build/library
SOURCES := DESCRIPTION NAMESPACE $(wildcard R/*.R src/*.cpp src/*.h src/kernels/*.h src/Makevars* inst/extdata/* inst/schema/* inst/ask/* inst/desk/* exec/*) $(shell find inst/rmarkdown -type f)
# R's memory may grow in larger steps (see ?Memory in R): a sixth less time for the tests.
RSCRIPT := R_GC_MEM_GROW=3 R_LIBS=$(CURDIR)/$(LIBRARY):$$R_LIBS Rscript --no-init-file

.PHONY: help setup setup-test demo desk test test-all test-servers check lint bench fuzz guard sanitize \
	screenshots document clean

help: ## what the targets do
	@grep -E '^[a-z-]+:.*##' Makefile | sed -E 's/:.*## /\t/' | awk -F '\t' '{printf "  make %-14s %s\n", $$1, $$2}'

setup: ## install what the command and the demo need and build the package into build/library
	@sh tools/setup.sh run report figure
	@$(MAKE) --no-print-directory $(LIBRARY)/.built

setup-test: ## the same for the tests
	@sh tools/setup.sh run report figure file desk test
	@$(MAKE) --no-print-directory $(LIBRARY)/.built

$(LIBRARY)/.built: $(SOURCES)
	@mkdir -p $(LIBRARY) build
	@echo "setup: building the package into $(LIBRARY)"
	@MAKEFLAGS=-j2 R CMD INSTALL --no-test-load --clean --library=$(LIBRARY) . > build/install.log 2>&1 || { cat build/install.log; exit 1; }
	@touch $@

demo: setup ## run the full example on the demo data, into demo-output/
	@sh tools/demo.sh

desk: ## open the desk on the demo, in the browser
	@sh tools/setup.sh run report figure desk
	@$(MAKE) --no-print-directory $(LIBRARY)/.built
	@./longladder desk inst/extdata/longladder.yml

test: setup-test ## run the everyday tests
	@$(RSCRIPT) tools/run-tests.R

test-all: setup-test ## run the long ones too
	@LONGLADDER_TEST_ALL=1 $(RSCRIPT) tools/run-tests.R

test-servers: setup-test ## install and start PostgreSQL, ClickHouse and DuckDB, and test against them
	@LONGLADDER_TEST_ALL=1 sh tools/test-servers.sh $(RSCRIPT) tools/run-tests.R sources

check: setup-test ## R CMD check
	@sh tools/check.sh

lint: setup ## house style by lintr
	@sh tools/setup.sh lint
	@$(RSCRIPT) -e 'found <- c(lintr::lint_dir("R"), lintr::lint_dir("tests")); print(found); quit(status = length(found) > 0)'

bench: setup ## time everything against rivals (LINES=1e7 for ten million lines), into bench/
	@sh tools/setup.sh file bench desk test
	@for subject in opening fold widths standings million names change command memory growth ask desk; do $(RSCRIPT) bench/$$subject.R || exit 1; done

fuzz: setup-test ## random input of every kind, and sentences judged (SECONDS=120, SEED, CLASSES, SENTENCES)
	@$(RSCRIPT) tools/fuzz.R $(or $(SECONDS),120) $(or $(SEED),1) $(CLASSES)
	@$(RSCRIPT) tools/judge.R $(or $(SENTENCES),20000) $(or $(SEED),1)

guard: setup ## small benchmarks: fails where we fell behind by more than half
	@$(RSCRIPT) bench/guard.R

sanitize: setup-test ## the kernels' tests under sanitizers and valgrind
	@sh tools/sanitize.sh

screenshots: setup ## draw docs/screenshots again
	@sh tools/screenshots.sh

document: ## write NAMESPACE, man and the glue to C++ again
	@Rscript --no-init-file -e 'Rcpp::compileAttributes()'
	@$(MAKE) --no-print-directory setup
	@sh tools/setup.sh document
	@$(RSCRIPT) -e 'suppressMessages(roxygen2::roxygenise(load_code = "installed"))'
	@$(RSCRIPT) -e 'invisible(longladder::ll_schema("inst/schema/longladder.schema.json"))'

clean: ## remove what was built
	@rm -rf build demo-output src/*.o src/*.so
