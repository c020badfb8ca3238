# Whatever is given as an argument of a study ends in an answer whose proof holds or in words of
# ours that name the argument.

bad_values <- list(na = NA, na_text = NA_character_, none = character(), empty = list(),
                   blank = "  ", fun = function(x) x, env = new.env(), call = quote(x + 1),
                   of_funs = list(function(x) x, 1), of_texts = list(c("a", "b"), "c"),
                   nested = list(list(1), list("a")), frame = data.frame(a = 1),
                   frame0 = data.frame(), two = c(-1, NaN), infinite = Inf, factor = factor("a"),
                   complex = 1i, raw = as.raw(1), named = c(zz = "1"), formula = ~ zz)

test_that("every argument of every study takes no value of the wrong kind in silence", {
  skip_unless_all()
  lines <- demo_frame()
  book <- ll_brief(demo_path("longladder.yml"), lines = lines[withr::with_seed(4,
                                                                               sample(nrow(lines),
                                                                                      80)), ])$book
  tried <- 0
  for (study in internal("declarations")()) {
    call <- internal(paste0("ll_", study$name))
    read <- internal("read_words")(study, scan(text = c(study$examples, "")[1], what = "",
                                               quiet = TRUE))
    plain <- lapply(read$options[intersect(names(study$args), names(read$options))], function(x) x)
    for (name in names(plain)) if (study$args[[name]]$type %in% c("words", "metrics"))
      plain[[name]] <- trimws(strsplit(plain[[name]], ",")[[1]])
    # A part of the demo does not hold the totals that its brief was told.
    apart <- ll_proof(do.call(call, c(list(book), plain), quote = TRUE))
    apart <- apart$check[!apart$holds]
    for (name in intersect(names(study$args),
                           names(formals(call)))) for (kind in names(bad_values)) {
      given <- plain
      given[name] <- list(bad_values[[kind]])
      info <- paste(study$name, name, kind)
      got <- tryCatch(do.call(call, c(list(book), given), quote = TRUE), error = identity,
                      warning = identity)
      tried <- tried + 1
      if (inherits(got, "ll_result")) {
        proof <- ll_proof(got)
        expect_true(all(proof$holds | proof$check %in% apart), info = info)
      } else {
        expect_true(inherits(got, "ll_error"), info = paste(info, conditionMessage(got)))
      }
    }
  }
  expect_gt(tried, 3000)
})
