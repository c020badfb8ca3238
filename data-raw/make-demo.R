# Makes the demo data: Wrenfield Beekeeping Supply, a made-up wholesaler.
#
#   Rscript data-raw/make-demo.R
#
# writes inst/extdata/{order_lines,accounts,items,reps}.csv, inst/extdata/stories.csv and
# data-raw/README.md. Everything comes from one seed. Each planted story is checked at the end
# with base R alone; the script stops when one does not hold.

source("data-raw/demo-registers.R")
source("data-raw/demo-lines.R")
source("data-raw/demo-plants.R")
source("data-raw/demo-stories.R")

RNGkind("Mersenne-Twister", "Inversion", "Rejection")
set.seed(20240102)

registers <- make_registers()
lines <- make_lines(registers)
lines <- plant_stories(lines, registers)
registers$reps$quota <- set_quotas(lines, registers$reps)
stories <- tell_stories(lines, registers)

write_table <- function(table, file) {
  data.table::fwrite(table, file.path("inst/extdata", file), na = "", quote = "auto", scipen = 20)
}
money <- function(x) ifelse(is.na(x), "", sprintf("%.2f", x))
shipped <- lines
for (field in c("list_price", "net", "cost")) shipped[[field]] <- money(lines[[field]])
write_table(shipped, "order_lines.csv")
write_table(registers$accounts[c("account", "account_name", "type", "territory", "contact",
                                 "since")], "accounts.csv")
write_table(registers$items[c("item", "item_name", "family")], "items.csv")
write_table(registers$reps[c("rep", "team", "quota")], "reps.csv")
write_table(stories, "stories.csv")
write_readme(stories, lines)
