# The place on the desk for a file of one's own, and what may be brought there; see desk-bring.R.

# Bytes that a file may have.
largest_upload <- 50 * 2^20

# What shiny lets come in: nothing where files are not to be brought.
brought_limit <- function(upload) if (upload) largest_upload else 1

bring_html <- function() {
  tags <- htmltools::tags
  tags$details(
    tags$summary("A file of your own"),
    tags$p(class = "help", page_text(paste0(
      "Lines as ", and_list(brought_endings(), last = "or"), ", up to ", largest_upload / 2^20,
      " MB. Only this page sees them, as long as it is open."))),
    shiny::fileInput("brought", NULL, accept = paste0(".", brought_endings()),
                     buttonLabel = "Choose"))
}

# Kinds of files that are read as they are; what is packed could be a great deal more.
brought_endings <- function() c("csv", "tsv", "txt", "parquet", "xlsx", "xls")
