# The desk in a real browser: a process of its own that serves it, and a page that is pressed, typed
# and pointed at as a person does.

skip_without_browser <- function() {
  need <- c("chromote", "shiny", "bslib")
  there <- all(vapply(need, requireNamespace, NA, quietly = TRUE)) && nzchar(browser_path())
  if (!there && nzchar(Sys.getenv("CI"))) fail("a browser and chromote are needed on CI")
  skip_if_not(there, "no browser, or no chromote")
}

browser_path <- function() {
  found <- Sys.which(c("chromium", "chromium-browser", "google-chrome"))
  c(found[nzchar(found)], "")[[1]]
}

# A desk that is served: list(address, stop()).
served_desk <- function(..., frame = parent.frame()) {
  log <- withr::local_tempfile(.local_envir = frame)
  script <- system.file("exec", "longladder", package = "longladder")
  words <- c("--no-init-file", script, "desk", ..., "--open", "no")
  run <- paste(c(shQuote(file.path(R.home("bin"), "Rscript")), shQuote(words)), collapse = " ")
  pid <- withr::with_envvar(c(LONGLADDER_CACHE = Sys.getenv("LONGLADDER_CACHE")), as.integer(
    system(paste("exec", run, ">", shQuote(log), "2>&1 & echo $!"), intern = TRUE)))
  stop_it <- function() {
    tools::pskill(pid)
    invisible()
  }
  withr::defer(stop_it(), envir = frame)
  address <- NULL
  until(function() {
    lines <- if (file.exists(log)) readLines(log, warn = FALSE) else character()
    hit <- regmatches(lines, regexpr("http://127[^ ]+", lines))
    if (length(hit)) address <<- hit[1]
    length(hit) > 0
  }, 120)
  if (is.null(address)) stop("the desk did not start: ", paste(readLines(log), collapse = "\n"))
  # A connection that could not be opened stays until it is collected, and there are 128 of them.
  until(function() tryCatch({
    close(suppressWarnings(url(address, open = "rb")))
    TRUE
  }, error = function(e) {
    suppressWarnings(gc())
    FALSE
  }), 60, .2)
  list(address = address, stop = stop_it, pid = pid)
}

until <- function(holds, seconds = 20, every = .05) {
  end <- Sys.time() + seconds
  repeat {
    if (isTRUE(holds())) return(TRUE)
    if (Sys.time() > end) return(FALSE)
    Sys.sleep(every)
  }
}

browser_once <- local({
  browser <- NULL
  function() {
    if (is.null(browser)) {
      Sys.setenv(CHROMOTE_CHROME = browser_path())
      browser <<- chromote::Chromote$new(browser = chromote::Chrome$new(args = c(
        "--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-sync",
        "--disable-background-networking", "--disable-component-update",
        # Pages that are not in front go on as those of ten people do.
        "--disable-background-timer-throttling", "--disable-renderer-backgrounding",
        "--disable-backgrounding-occluded-windows",
        "--force-color-profile=srgb")))
      # Outside of tests it goes with the process.
      end <- tryCatch(testthat::teardown_env(), error = function(e) NULL)
      if (!is.null(end)) withr::defer(browser$close(), end)
    }
    browser
  }
})

# A tab on an address: js(code), wait(code), press(css), type(css, text), key(name), shot(file),
# messages() of the console.
open_tab <- function(address, width = 1280, height = 800, dark = FALSE, frame = parent.frame()) {
  tab <- browser_once()$new_session(width = width, height = height)
  # Ten pages on two cores may take longer than a browser is otherwise waited for.
  tab$default_timeout <- 60
  # The browser may be gone before.
  withr::defer(try(tab$close(), silent = TRUE), envir = frame)
  said <- character()
  tab$Runtime$enable()
  tab$Log$enable()
  tab$Runtime$exceptionThrown(callback_ = function(x) {
    told <- x$exceptionDetails
    said <<- c(said, paste(told$exception$description %||% told$exception$value %||% told$text,
                           told$url))
  })
  tab$Runtime$consoleAPICalled(callback_ = function(x) {
    if (x$type %in% c("error", "assert"))
      said <<- c(said, paste(vapply(x$args, function(a) as.character(a$value %||% a$description),
                                    ""), collapse = " "))
  })
  tab$Log$entryAdded(callback_ = function(x) {
    if (x$entry$level == "error") said <<- c(said, paste(x$entry$text, x$entry$url))
  })
  requested <- character()
  tab$Network$enable()
  tab$Network$requestWillBeSent(callback_ = function(x) requested <<- c(requested, x$request$url))
  tab$Emulation$setEmulatedMedia(features = list(list(
    name = "prefers-color-scheme", value = if (dark) "dark" else "light")))
  tab$Emulation$setDeviceMetricsOverride(width = width, height = height, deviceScaleFactor = 1,
                                         mobile = FALSE)
  tab$Page$navigate(address)
  js <- function(code) tab$Runtime$evaluate(code, returnByValue = TRUE,
                                            awaitPromise = TRUE)$result$value
  # Long, since other tests may have the machine; a page that works is there at once.
  wait <- function(code, seconds = 90) {
    if (!until(function() tryCatch(js(code), error = function(e) FALSE), seconds))
      stop("on the page this did not come: ", code, "; last said: ",
           js("(document.querySelector('#said_part') || {}).innerText"))
    invisible(TRUE)
  }
  quoted <- function(text) jsonlite::toJSON(text, auto_unbox = TRUE)
  press <- function(css) {
    wait(paste0("!!document.querySelector(", quoted(css), ")"))
    js(paste0("document.querySelector(", quoted(css), ").click()"))
  }
  key <- function(name, code = name, number = 0L, text = NULL) {
    down <- list(type = "keyDown", key = name, code = code, windowsVirtualKeyCode = number)
    if (!is.null(text)) down$text <- text
    do.call(tab$Input$dispatchKeyEvent, down)
    tab$Input$dispatchKeyEvent(type = "keyUp", key = name, code = code,
                               windowsVirtualKeyCode = number)
  }
  type <- function(css, text) {
    js(paste0("document.querySelector(", quoted(css), ").focus()"))
    tab$Input$insertText(text)
  }
  mouse <- function(x, y) for (what in c("mousePressed", "mouseReleased"))
    tab$Input$dispatchMouseEvent(type = what, x = x, y = y, button = "left", clickCount = 1)
  shot <- function(file, whole = FALSE) {
    got <- if (whole) tab$Page$captureScreenshot(captureBeyondViewport = TRUE) else
      tab$Page$captureScreenshot()
    writeBin(jsonlite::base64_dec(got$data), file)
  }
  list(js = js, wait = wait, press = press, key = key, type = type, mouse = mouse, shot = shot,
       tab = tab, messages = function() said, requested = function() requested,
       enter = function() key("Enter", number = 13L, text = "\r"))
}

# Asks in words and waits for the answer, whose place it gives.
ask_page <- function(page, text) {
  page$wait("!!document.querySelector('#holding')")
  before <- page$js("document.querySelectorAll('.step:not([hidden])').length")
  page$js("document.querySelector('#question').value = ''")
  page$type("#question", text)
  page$enter()
  page$wait(paste0("document.querySelectorAll('.step:not([hidden]) h3').length > ", before))
  before + 1
}
