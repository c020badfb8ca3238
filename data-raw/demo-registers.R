# The registers of the demo: accounts, items, reps.

territories <- c("Moor", "Fen", "Heath", "Vale", "Coast", "Downs")
types <- c("apiary", "club", "farm shop", "school", "garden centre")
families <- c("hives", "frames", "suits", "extractors", "jars", "feed", "live bees", "tools",
              "wax")

make_registers <- function() {
  list(accounts = make_accounts(640), items = make_items(), reps = make_reps())
}

make_accounts <- function(n) {
  first <- c("Larkfield", "Ashby", "Thistle", "Copper", "Millrick", "Hazel", "Oakwith", "Ferny",
             "Stony", "Willow", "Bramble", "Sorrel", "Harlock", "Quarry", "Linden", "Marsh",
             "Foxhill", "Heron", "Juniper", "Kestrel", "Amber", "Clover", "Saffron", "Tansy",
             "Yarrow", "Barley", "Cinder", "Dapple", "Elder", "Furze", "Gorse", "Hollin")
  second <- c("Gate", "Combe", "Bank", "Ridge", "Hollow", "Green", "Lane", "Cross", "Ford",
              "Meadow", "Croft", "Mill", "End", "Rise", "Wood", "Dell", "Holme", "Leaze", "Barrow",
              "Brook", "Field", "Heath", "Toll", "Yard")
  tail <- c(apiary = "Apiary", club = "Beekeepers", `farm shop` = "Farm Shop", school = "School",
            `garden centre` = "Garden Centre")
  type <- sample(types, n, TRUE, c(.34, .2, .18, .12, .16))
  territory <- sample(territories, n, TRUE, c(.26, .14, .16, .16, .15, .13))
  stem <- sample(as.vector(outer(first, second, paste)), n)
  since <- as.Date("2016-01-01") + sample(0:2920, n, TRUE)
  late <- sample(n, 150)
  since[late] <- as.Date("2024-02-01") + sample(0:880, 150, TRUE)
  # Big enough for the stories of the second quarter of 2026 to be seen.
  boost <- 1 + 3.5 * (territory == "Vale" & type == "school") +
    0.4 * (territory == "Fen" & type == "garden centre")
  people <- c("R. Ames", "T. Boyle", "J. Carr", "P. Dunn", "M. Eade", "S. Firth", "L. Gunn",
              "C. Hale", "D. Ibbot", "N. Jarvis", "A. Knox", "B. Lamb", "H. Moss", "E. Nash",
              "F. Orme", "G. Pike", "K. Quill", "V. Rudd", "W. Sykes", "O. Tate")
  data.frame(account = sprintf("%05d", sort(sample(112:9890, n))),
             account_name = paste(stem, tail[type]), type = type, territory = territory,
             contact = sample(people, n, TRUE), since = since,
             weight = pmin(exp(rnorm(n, 0, 1.15)), 9) * boost,
             never = seq_len(n) %in% sample(n, 44))
}

make_items <- function() {
  spec <- data.frame(
    family = families, code = c("HV", "FR", "SU", "EX", "JR", "FD", "LB", "TL", "WX"),
    n = c(18, 20, 16, 10, 18, 14, 8, 22, 14),
    price = c(118, 16, 48, 240, 9, 14, 96, 15, 20), spread = c(.35, .4, .45, .5, .5, .4, .3, .6,
                                                               .4),
    cost = c(.60, .52, .48, .63, .55, .66, .71, .50, .58),
    quantity = c(2, 12, 3, 1, 18, 10, 3, 4, 8), share = c(.13, .17, .1, .04, .18, .12, .05, .13,
                                                          .08))
  rows <- spec[rep(seq_len(nrow(spec)), spec$n), ]
  number <- sequence(spec$n)
  rows$item <- sprintf("%s-%03d", rows$code, number)
  rows$list_price <- round(rows$price * exp(rnorm(nrow(rows), 0, rows$spread)), 2)
  rows$unit_cost <- round(rows$list_price * rows$cost * exp(rnorm(nrow(rows), 0, .05)), 2)
  rows$pull <- rows$share / rows$n * exp(rnorm(nrow(rows), 0, .6))
  kind <- c(hives = "hive", frames = "frame set", suits = "suit", extractors = "extractor",
            jars = "jar", feed = "syrup", `live bees` = "nucleus", tools = "tool",
            wax = "foundation")
  make <- c("Acorn", "Birch", "Cove", "Dale", "Ember", "Flint", "Glade", "Holt", "Isle", "Jade",
            "Knoll", "Lake", "Mead", "Nook", "Orchard", "Pebble", "Quill", "Reed", "Shore",
            "Thorn", "Umber", "Vine")
  rows$item_name <- paste(make[number], kind[rows$family])
  # The old hive and the one that replaces it.
  rows$item_name[rows$item == "HV-001"] <- "Acorn cedar hive"
  rows$item_name[rows$item == "HV-018"] <- "Wrenfield double-wall hive"
  rows$list_price[rows$item == "HV-001"] <- 128.00
  rows$unit_cost[rows$item == "HV-001"] <- 79.50
  rows$list_price[rows$item == "HV-018"] <- 164.00
  rows$unit_cost[rows$item == "HV-018"] <- 92.00
  rows$pull[rows$item == "HV-001"] <- max(rows$pull[rows$family == "hives"]) * 1.5
  rows$pull[rows$item == "HV-018"] <- 0
  rownames(rows) <- NULL
  rows[c("item", "item_name", "family", "list_price", "unit_cost", "quantity", "pull")]
}

make_reps <- function() {
  rep <- c("Maren Holt", "Ida Marsh", "Oswin Pell", "Tobias Wren", "Greta Lunt", "Piers Amory",
           "Hester Voss",
           "Bram Colley", "Sunniva Dray",
           "Tamsin Orrell", "Felix Roke", "Nora Quince",
           "Ansel Tarn", "Wilma Heath", "Ruben Stowe",
           "Lotte Fane", "Edmund Sill", "Carys Blythe",
           "Juno Marl", "Silas Dove",
           "Jory Blackwood", "Nell Carrow")
  home <- c(rep("Moor", 7), rep("Fen", 2), rep("Heath", 3), rep("Vale", 3), rep("Coast", 3),
            rep("Downs", 2), "Coast", "Vale")
  team <- c(Moor = "North", Fen = "North", Heath = "West", Vale = "West", Coast = "South",
            Downs = "South")[home]
  team[rep %in% c("Jory Blackwood", "Nell Carrow")] <- "Trade counter"
  data.frame(rep = rep, team = unname(team), home = home)
}

# A yearly quota near what each rep sold in 2025, some within reach and some not.
set_quotas <- function(lines, reps) {
  year <- format(lines$order_date, "%Y") == "2025"
  sold <- tapply(lines$net[year], factor(lines$rep[year], reps$rep), sum, na.rm = TRUE)
  sold[is.na(sold)] <- 0
  pmax(20000, round(unname(sold) * runif(length(sold), .85, 1.3), -4))
}
