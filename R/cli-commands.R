# Declarations of the commands that are no studies.

command_run <- declare(
  "run", "Run a brief: every page as table and picture, workbook, report, notebook",
  args = list(
    for_each = arg("words", "a dimension: one set of files for each of its names"),
    lines = arg("text", "other lines than the brief names")),
  examples = c("inst/extdata/longladder.yml --out march",
               "inst/extdata/longladder.yml reps accounts --out march --for-each territory"))

command_schema <- declare("schema", "Print the JSON Schema of briefs, for editors", args = list(),
                          examples = "--out longladder.schema.json")

command_sql <- declare(
  "sql", "Print the statements that a question asks of a database",
  args = list(),
  examples = "standings --connect driver=sqlite,file=shop.db --table order_lines --each rep")

command_draft <- declare(
  "draft", "Write a first brief for new files: roles, registers, likely metrics",
  args = list(), examples = "order_lines.csv accounts.csv items.csv --out longladder.yml")

command_cache <- declare(
  "cache", "Keep files opened, so that they answer at once the next time",
  args = list(
    list = arg("flag", "list the books that are kept"),
    remove = arg("text", "remove what is kept of this file, or all (repeatable)"),
    verify = arg("flag", "read all kept books and their files whole, and remove what has changed"),
    limit = arg("text", "how much may be kept, as 500MB or 50GB")),
  examples = c("order_lines.csv", "longladder.yml", "--list", "--remove order_lines.csv"))
