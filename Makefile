# Everything a developer needs. Packages that are missing are installed by tools/setup.sh; the package itself is
# installed into build/lib, so that nothing outside this folder changes.

LIB := build/lib
SOURCES := DESCRIPTION NAMESPACE $(shell find R src inst exec -type f ! -name '*.o' ! -name '*.so' 2>/dev/null)
RUN := R_LIBS=$(CURDIR)/$(LIB)

.PHONY: demo test install check bench fuzz sanitize screenshots lint coverage mutate site document extdata damaged setup clean

setup:
	@bash tools/setup.sh

$(LIB)/.installed: $(SOURCES) | setup
	@mkdir -p $(LIB)
	R CMD INSTALL --no-docs --no-test-load --library=$(LIB) . > build/install.log 2>&1 || (cat build/install.log; exit 1)
	@touch $@

demo: $(LIB)/.installed
	@$(RUN) $(LIB)/bemrick/exec/bemrick demo --out build/demo --replace

# all tests, or some: make test FILES="judge spec"
test: $(LIB)/.installed
	@bash tools/setup-slurm.sh
	@bash tools/setup-postgres.sh
	@bash tools/setup.sh openxlsx2 || echo "Workbooks are not tested: openxlsx2 cannot be installed." >&2
	@bash tools/setup-browser.sh
	@$(RUN) Rscript tools/run-tests.R $(FILES)

# into the user's R library, the program into ~/.local/bin (or BINDIR)
install: setup
	@bash tools/install.sh

# without debugging symbols, which alone would make the installed package look too large
check: setup
	@mkdir -p build && rm -f build/bemrick_*.tar.gz
	cd build && R CMD build .. && \
	R_STRIP_SHARED_LIB="strip --strip-debug" R CMD check --no-manual --install-args=--strip bemrick_*.tar.gz

bench: $(LIB)/.installed
	@$(RUN) Rscript bench/bench.R
	@$(RUN) Rscript bench/growth.R
	@$(RUN) Rscript bench/batch.R
	@$(RUN) Rscript bench/accuracy.R
	@$(RUN) Rscript bench/shapes.R
	@$(RUN) Rscript bench/parting.R
	@$(RUN) Rscript bench/parting-mixed.R
	@$(RUN) Rscript bench/edges.R
	@$(RUN) Rscript bench/pictures.R
	@$(RUN) Rscript bench/noise.R
	@$(RUN) Rscript bench/objects.R
	@$(RUN) Rscript bench/coverage.R
	@$(RUN) Rscript bench/sections.R
	@$(RUN) Rscript bench/reading.R
	@$(RUN) Rscript bench/strips.R
	@$(RUN) Rscript bench/calibration.R
	@$(RUN) Rscript bench/scale.R | tee bench/scale.md
	@$(RUN) Rscript bench/stopped.R | tee bench/stopped.md
	@$(RUN) Rscript bench/locate.R | tee bench/locate.md
	@$(RUN) Rscript bench/locate-none.R
	@$(RUN) Rscript bench/gauge.R | tee bench/gauge.md
	@$(RUN) Rscript bench/layers.R | tee bench/layers.md
	@$(RUN) Rscript bench/parts.R | tee bench/parts.md
	@$(RUN) Rscript bench/ledger.R | tee bench/ledger.md
	@bash tools/setup-browser.sh
	@$(RUN) Rscript bench/desk.R | tee bench/desk.md

# damaged files through all readers, random methods on random pictures, and every argument against
# every bad value
fuzz: $(LIB)/.installed
	@$(RUN) Rscript tests/fuzz/damaged.R $(FUZZ)
	@$(RUN) Rscript tests/fuzz/random.R $(FUZZ)
	@$(RUN) BEMRICK_ALL_ARGUMENTS=1 Rscript tools/run-tests.R arguments

# the kernels' tests with address and undefined-behaviour checks
sanitize: setup
	@bash tools/sanitize.sh

screenshots: $(LIB)/.installed
	@$(RUN) bash tools/screenshots.sh

lint: setup
	@bash tools/setup.sh lintr spelling
	@Rscript tools/lint.R

# which lines the tests reach
coverage: setup
	@bash tools/setup.sh covr
	@Rscript tools/coverage.R

# do the tests notice small changes? MUTATE="--since main~3", or files to change
mutate: $(LIB)/.installed
	@$(RUN) Rscript tools/mutate.R $(MUTATE)

# the reference and the vignettes as a site; nothing is asked of the network
site: $(LIB)/.installed
	@bash tools/setup.sh pkgdown
	@$(RUN) Rscript -e 'options(pkgdown.internet = FALSE); pkgdown::build_site(preview = FALSE, install = FALSE, override = list(destination = "build/site"))'
	@mkdir -p build/site/docs && cp -r docs/screenshots build/site/docs/  # the README's

# help pages and NAMESPACE from the comments above the functions
document: setup
	@bash tools/setup.sh roxygen2
	Rscript -e 'Rcpp::compileAttributes(".")'
	Rscript -e 'roxygen2::roxygenise(".", roclets = "namespace", load_code = "source")'
	$(MAKE) $(LIB)/.installed
	$(RUN) Rscript -e 'roxygen2::roxygenise(".", load_code = "installed")'

# the pictures that ship with the package
extdata: $(LIB)/.installed
	@$(RUN) Rscript tools/make-extdata.R

# the damaged files of the tests
damaged: $(LIB)/.installed
	@$(RUN) Rscript tools/make-damaged.R

clean:
	rm -rf build src/*.o src/*.so
