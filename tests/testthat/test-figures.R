# Pictures, measured: every text of every figure as a box, none over another, none beyond the edge.
# Drawn as SVG, whose texts tell place, size and length.

text_boxes <- function(file) {
  page <- xml2::xml_ns_strip(xml2::read_xml(file))
  size <- as.numeric(strsplit(xml2::xml_attr(page, "viewBox"), " ")[[1]])
  texts <- xml2::xml_find_all(page, "//text")
  number <- function(name) suppressWarnings(as.numeric(sub("px.*", "",
                                                           xml2::xml_attr(texts, name))))
  high <- as.numeric(sub(".*font-size: *([0-9.]+)px.*", "\\1", xml2::xml_attr(texts, "style")))
  long <- number("textLength")
  turned <- regmatches(xml2::xml_attr(texts, "transform"),
                       regexec("translate\\(([-0-9.]+),([-0-9.]+)\\) rotate\\(([-0-9.]+)\\)",
                               xml2::xml_attr(texts, "transform")))
  at <- function(i, plain) ifelse(lengths(turned) == 4,
                                  as.numeric(vapply(turned,
                                                    function(x) if (length(x) == 4) x[i] else "0",
                                                    "")), plain)
  x <- at(2, number("x"))
  y <- at(3, number("y"))
  upright <- abs(at(4, 0)) > 45
  anchor <- c(start = 0, middle = .5, end = 1)[xml2::xml_attr(texts, "text-anchor")]
  anchor[is.na(anchor)] <- 0
  data.frame(text = xml2::xml_text(texts), left = ifelse(upright, x - .74 * high,
                                                         x - anchor * long),
             right = ifelse(upright, x + .2 * high, x + (1 - anchor) * long),
             top = ifelse(upright, y - (1 - anchor) * long, y - .74 * high),
             bottom = ifelse(upright, y + anchor * long, y + .2 * high), width = size[3],
             height = size[4])
}

# Overlaps of a point or two, as of lines set closely, are none.
layout_faults <- function(file) {
  b <- text_boxes(file)
  b <- b[nzchar(trimws(b$text)), ]
  out <- paste("beyond the edge:", b$text[b$left < -2 | b$right > b$width + 2 | b$top < -2 |
                                          b$bottom > b$height + 2], recycle0 = TRUE)
  pairs <- utils::combn(seq_len(nrow(b)), min(2, nrow(b)))
  if (nrow(b) < 2) return(out)
  i <- pairs[1, ]
  j <- pairs[2, ]
  over <- pmin(b$right[i], b$right[j]) - pmax(b$left[i], b$left[j]) > 3 &
    pmin(b$bottom[i], b$bottom[j]) - pmax(b$top[i], b$top[j]) > 3
  c(out, paste(b$text[i[over]], "over", b$text[j[over]], recycle0 = TRUE))
}

# Those of a picture as the desk draws it at the least, so many points high.
desk_faults <- function(result, high) {
  file <- withr::local_tempfile(fileext = ".svg")
  svglite::svglite(file, width = internal("figure_width") / 96, height = high / 96)
  print(internal("drawn_bare")(result))
  grDevices::dev.off()
  layout_faults(file)
}

figure_book <- function(names, groups, long = FALSE, negative = FALSE) {
  lines <- withr::with_seed(names + groups, {
    n <- max(600, names * 30)
    label <- if (long) sprintf("%s Beekeepers and Growers of the Northern Valleys %02d",
                               rep_len(c("Amber", "Hollin", "Quarry"), names), seq_len(names)) else
                                 sprintf("Name %02d", seq_len(names))
    data.frame(o = sample(n, n, TRUE), k = sample(label, n, TRUE, prob = (names:1)^1.2),
               g = sample(sprintf(if (long) "Group with a long name %02d" else "G%02d",
                                  seq_len(groups)), n, TRUE),
               p = sample(sprintf("Product %02d", 1:9), n, TRUE),
               net = round(rlnorm(n, 4, 1) * (if (negative) sample(c(1, 1, -1.2), n, TRUE) else 1),
                           2), cost = round(rlnorm(n, 3, 1), 2),
               day = as.Date("2024-01-01") + sample(0:730, n, TRUE))
  })
  ll_book(lines, date = "day", order = "o", fields = list(o = "identifier"), metrics = c(
    revenue = "sum(net)", rate = "(sum(net) - sum(cost)) / sum(net)", orders = "distinct(o)",
    average = "sum(net) / distinct(o)", cost_total = "sum(cost)", lines_n = "count()"))
}

figures_of <- function(b, metrics) {
  m <- c("revenue", "rate", "orders", "average", "cost_total", "lines_n")[seq_len(metrics)]
  name <- ll_standings(b, "k")$k[1]
  two <- ll_standings(b, "g")$g[1:2]
  change <- function(fn, ...) fn(b, ..., when = "2025", against = "2024")
  list(total = ll_total(b, m, when = "2025"), standings = ll_standings(b, "k", m, top = 40),
       groups = ll_standings(b, "k", within = "g", top = 3),
       before = change(ll_standings, "k", top = 20), score = ll_score(b, "k", unique(c(m, "rate"))),
       pareto = ll_pareto(b, "k", cut = c(.5, .8, .95)), tiers = ll_tiers(b, "k", groups = 3),
       quadrants = ll_quadrants(b, "k", c("revenue", "orders")),
       payout = ll_payout(b, "k", rates = "0=1%,1000=2%"), distribution = ll_distribution(b, "k"),
       spread = ll_distribution(b, by = "g"), crosstab = ll_crosstab(b, "k", "g"),
       months = ll_crosstab(b, "k", "month(day)"), holders = ll_holders(b, "k", within = "g"),
       benchmark = ll_benchmark(b, "k"), versus = ll_versus(b, "g", two, "k"),
       portrait = ll_portrait(b, "k", name), trend = ll_trend(b, m),
       lines = ll_trend(b, "revenue", by = "k", every = "quarter"),
       cohorts = ll_cohorts(b, "k", every = "quarter"),
       lapsed = ll_lapsed(b, "k", inactive = "last 30 days"),
       sets = ll_sets(b, "k", sets = c(a = "active('2024-Q1')", b = "active('2025-Q4')",
                                       cc = "top(revenue, 10)")),
       whitespace = ll_whitespace(b, "k", "p", top = "all", buyers = 2),
       associations = ll_associations(b, "k"), check = ll_check(b),
       bridge = change(ll_bridge, by = "k"), moves = change(ll_bridge, by = "k", into = "names"),
       drill = change(ll_drill), substitution = change(ll_substitution, "k", "p"))
}

test_that("no text lies on another or beyond the edge, over names, groups, metrics and sizes", {
  skip_unless_all()
  cases <- list(list(1, 2, 1), list(3, 3, 2), list(40, 24, 6), list(15, 8, 5, long = TRUE),
                list(25, 14, 3, long = TRUE, negative = TRUE))
  for (case in cases) {
    book <- do.call(figure_book, case[-3])
    pictures <- figures_of(book, case[[3]])
    for (one in names(pictures)) {
      file <- withr::local_tempfile(fileext = ".svg")
      ll_save(pictures[[one]], file)
      expect_identical(layout_faults(file), character(),
                       info = paste(one, paste(case, collapse = " ")))
      # As the desk draws it at the least.
      if (!isTRUE(case$long)) next
      faults <- desk_faults(pictures[[one]], internal("figure_height")(pictures[[one]]))
      expect_identical(faults, character(), info = paste("on the desk:", one))
    }
  }
  # Names beside a crowd of points.
  for (each in c("account", "item")) for (metrics in list(
    c("revenue", "margin_rate"), c("revenue", "orders"), c("margin", "units"))) {
    faults <- desk_faults(ll_quadrants(demo_book(), each, metrics), 6.4 * 96)
    expect_identical(faults, character(), info = paste(c(each, metrics), collapse = " "))
  }
  # A small picture is the same in small: as many pixels, and nothing else.
  small <- withr::local_tempfile(fileext = ".svg")
  ll_save(pictures$groups, small, width = 4.45, height = 2.78)
  expect_identical(layout_faults(small), character())
  dots <- withr::local_tempfile(fileext = ".png")
  ll_save(pictures$groups, dots, width = 4.45, height = 2.78)
  expect_equal(readBin(dots, "raw", 24)[c(19, 20, 23, 24)],
               as.raw(c(640 %/% 256, 640 %% 256, 400 %/% 256, 400 %% 256)))
  # What is not drawn is said.
  expect_match(ggplot2::autoplot(ll_standings(figure_book(40, 24), "k",
                                              within = "g"))$labels$caption,
               "the first 12 of 24 groups")
})

test_that("labels on tiles are in the colour that is read better there", {
  light <- internal("light_on")
  fills <- internal("tile_colour")(seq(0, 1, .05))
  # White only from the deepest on, once and for all.
  expect_false(is.unsorted(light(fills)))
  expect_identical(light(c("#FFFFFF", "#000000")), c(FALSE, TRUE))
  ratio <- function(a, b) {
    of <- function(colour) {
      x <- grDevices::col2rgb(colour)[, 1] / 255
      sum(c(.2126, .7152, .0722) * ifelse(x <= .03928, x / 12.92, ((x + .055) / 1.055)^2.4)) + .05
    }
    max(of(a), of(b)) / min(of(a), of(b))
  }
  ink <- internal("house")$ink
  for (fill in fills) {
    got <- ratio(fill, if (light(fill)) "#FFFFFF" else ink)
    expect_gte(got, max(ratio(fill, "#FFFFFF"), ratio(fill, ink)) - 1e-9)
    expect_gt(got, 3.4)
  }
})
