#' Formulas, conditions and periods
#'
#' Three small languages serve in every question: formulas for metrics and fields, conditions on
#' lines, and periods. In R a formula or condition may be text or one-sided: `"sum(net)"` or
#' `~ sum(net)`. They are read into a tree of the forms listed here and computed by this package's
#' own code; nothing that is typed is ever run.
#'
#' @section Metrics:
#' * `sum(x)`, `mean(x)`, `min(x)`, `max(x)`, `median(x)`, `quantile(x, p)` with `p` from 0 to 1,
#'   `sd(x)`, `var(x)` of a formula over lines. Missing values are left out; a group whose values
#'   are all missing gives missing. `min` and `max` also of dates. Deviation and variance are of a
#'   sample (n - 1); quantiles interpolate between the neighbouring values (type 7 of Hyndman and
#'   Fan).
#' * `count()`: lines; `count(x)`: lines that have an x; `distinct(field)`: names that occur.
#' * `sum(net[quantity >= 10])`: only lines that meet a condition.
#' * `max(per(order_no, sum(net)))`: the metric after the comma for each name of the field, then the
#'   aggregate of those. `it` is that inner value: `count(per(order_no, sum(net))[it > big_order])`.
#'   Within groups, an order counts with its part in the group; lines without the field's name are
#'   left out.
#' * `+ - * /`, `abs`, `pmin`, `pmax` between aggregates, other metrics, parameters and numbers:
#'   `margin / revenue`. Division by zero gives missing. Dates may be subtracted, which gives days;
#'   `as_of()` is the book's last date, or the one it was opened with.
#' * `change(metric)` and `growth(metric)` against the period given in `against`; growth is missing
#'   unless the value before was above zero.
#'
#' @section Fields over lines:
#' `+ - * /`, `abs`, `pmin`, `pmax`, `ifelse(condition, a, b)` over fields, parameters and numbers;
#' dates subtracted or moved by days; parts of a date, which are names: `day` (`2026-03-31`), `week`
#' (`2026-W14`, ISO 8601), `month` (`2026-03`), `quarter` (`2026-Q1`), `year`, `fiscal_month`
#' (`FY2026-P03`), `fiscal_quarter`, `fiscal_year`, `weekday` (`Tuesday`), and where
#' there are times `hour` (`09`) and `part_of_day` (`06-12 morning`, by six hours each).
#'
#' @section Conditions:
#' `== != < <= > >=`, `%in% c("Moor", "Fen")` or `%in%` a saved set (see [ll_sets()]), `is.na(x)`,
#' `contains(x, "text")`,
#' `startsWith(x, "text")` (letter case counts), `between(x, low, high)` (both ends in), joined by
#' `&`, `|`, `!` and brackets. A line is either in or out: a comparison with a missing value is
#' false, and `!` turns it true. Dates are written `"2026-03-31"`.
#'
#' @section Periods:
#' `2026`, `2026-H1`, `2026-Q2`, `2026-04`, `2026-W14`, `2026-04-01`, `2026-04-01/2026-06-30` (both
#' ends in); `H1` and `Q2` alone, the latest that has begun; an event of the calendar, `spring fair
#' 2026`;
#' `FY2026`, `FY2026-Q1`, `FY2026-P03` by the calendar of [ll_book()]; `all`; `last month`,
#' `last quarter`, `last year`, `last fiscal quarter` and so on (the last whole one);
#' `this year to date`, `this fiscal quarter to date` and so on; `last 90 days`; `last 4 weeks`,
#' `last 12 months`, `last 3 quarters`, `last 2 years` (whole ones). Words count back from the
#' book's last date. What a period is compared with may also be `previous` (as long, just before)
#' or `year before` (weeks are held against weeks), or an event of the calendar: the days that lie
#' as
#' far from the one before.
#'
#' A period that the lines do not cover to its end is compared with the same days of the other one
#' where the comparison is by such a word or `last year`. A period that is typed stays whole, and
#' the
#' finding tells the same days too. A period is covered where no more days at its end lack lines
#' than
#' usually do before such a day: in nine of ten weeks on that weekday, at the ends of most months,
#' on that
#' day of earlier years; or up to `covered_to` of the calendar.
#'
#' @section Exactness:
#' Decimals of up to six places are added, compared and ranked as whole numbers. Other numbers are
#' added on a fixed grid fine enough that the order of the lines never shows; quotients count as
#' equal within a relative 1e-9.
#'
#' @references
#' Hyndman, R. J. and Fan, Y. (1996) Sample quantiles in statistical packages. *The American
#' Statistician* 50, 361-365. \doi{10.2307/2684934}
#'
#' Chan, T. F., Golub, G. H. and LeVeque, R. J. (1983) Algorithms for computing the sample variance.
#' *The American Statistician* 37, 242-247. \doi{10.2307/2683386}
#' @examples
#' book <- ll_demo()
#' ll_standings(book, each = "rep", top = 3, metrics = c(
#'   largest = "max(per(order_no, sum(net)))",
#'   big = "count(per(order_no, sum(net))[it > big_order])",
#'   last_day = "max(order_date)"))
#' ll_standings(book, each = "month(order_date)", when = "last 6 months",
#'              where = ~ contains(channel, "web") & !between(quantity, 1, 5))
#' ll_standings(book, each = "item", metrics = c(trend = "change(revenue)"), bottom = 3,
#'              when = "2026-Q2", against = "year before")
#' @name ll_languages
NULL
