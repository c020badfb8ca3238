# Declarations of the commands that are no studies.

command_run <- declare(
  "run", "Run a brief: every page as table and picture, workbook, report, notebook",
  args = list(
    for_each = arg("words", "a dimension: one set of files for each of its names"),
    lines = reads(arg("text", "other lines than the brief names"))),
  examples = c("inst/extdata/longladder.yml --out march",
               "inst/extdata/longladder.yml reps accounts --out march --for-each territory"))

command_render <- declare(
  "render", "Render a notebook in an empty folder, where nothing beside it is obeyed",
  args = list(out = writes(arg("text", "the rendered file (default: beside the notebook)"))),
  examples = "march/notebook.Rmd")

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

command_ask <- declare(
  "ask", "Ask in plain words: top customers by margin, who stopped buying, why did it change",
  args = list(
    read_only = arg("flag", "how the question is read, and the command, without the answer"),
    from = reads(arg("text", "a file with one question a line; one JSON a line comes back")),
    means = arg("text", "a word that means another for once: clients=account (repeatable)"),
    log_questions = writes(arg("text",
                               "keep the questions and what became of them in this file")),
    unanswered = reads(arg("text", "count the words to teach, from such a file"))),
  examples = c("\"top 5 garden centres by margin in 2026\" --brief inst/extdata/longladder.yml",
               "\"why did revenue change in Q2 2026?\" --brief inst/extdata/longladder.yml"))

command_desk <- declare(
  "desk", "Open the desk: ask in words or by pointing, in the browser, on this machine alone",
  args = list(
    port = arg("whole", "where it is served (default: a free one)"),
    open = arg("choice", "open the browser: yes, no (default: yes)"),
    upload = arg("flag", "let people bring a file of lines of their own")),
  examples = c("inst/extdata/longladder.yml",
               "inst/extdata/order_lines.csv --define 'revenue=sum(net)'"))
