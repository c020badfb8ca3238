# A question as a form: the arguments of a study, made from its declaration. What stands in the form
# can be said in words, and words fill the form.

form_html <- function(study, args = list()) {
  tags <- htmltools::tags
  declared <- declaration_of(study)
  texts <- form_texts(study, args)
  list(tags$form(
    id = "filling", autocomplete = "off", "data-study" = study,
    tags$p(tags$label("Study ", tags$select(
      name = "study", "data-act" = "form_study", lapply(names(declarations()), function(name) {
        tags$option(value = name, selected = if (name == study) NA, name)
      }))), tags$span(class = "kicker", page_text(declared$answers))),
    tags$div(class = "fields", lapply(names(declared$args), function(name) {
      field_html(name, declared$args[[name]], texts[[name]])
    })),
    tags$p(desk_button("form_ask", "Ask this", class = "strong"),
           desk_button("form_say", "Say it in words"))))
}

field_html <- function(name, spec, text) {
  tags <- htmltools::tags
  input <- if (spec$type == "flag") {
    tags$input(type = "checkbox", name = name, checked = if (identical(text, "yes")) NA)
  } else if (!is.null(spec$choices) && spec$type == "choice") {
    tags$select(name = name, tags$option(value = "", ""), lapply(spec$choices, function(choice) {
      tags$option(value = choice, selected = if (identical(text, choice)) NA, choice)
    }))
  } else {
    tags$input(type = "text", name = name, value = text, placeholder = form_default(spec))
  }
  tags$label(class = "field", tags$span(class = "name", page_text(spoken(name)),
                                        if (spec$required) " (needed)"), input,
             tags$span(class = "help", page_text(spec$help)))
}

form_default <- function(spec) {
  if (!is.null(spec$default) && !is.logical(spec$default)) plain_number(spec$default)
}

# The arguments of a call as they stand in the form.
form_texts <- function(study, args) {
  declared <- declaration_of(study)
  args <- telling_args(declared, args)
  Map(function(value, name) list_text(arg_texts(value, declared$args[[name]])), args, names(args))
}

# The call of what stands in a form: values by name, as text.
form_call <- function(study, values) {
  declared <- declaration_of(study)
  known <- intersect(names(declared$args), names(values))
  values <- Filter(function(value) one_text(value) && nzchar(trimmed(value)), values[known])
  args <- Map(function(value, name) {
    spec <- declared$args[[name]]
    if (spec$type == "flag") return(value == "yes")
    several <- spec$type %in% c("words", "metrics")
    typed_value(if (several) split_list(value, name) else value, spec)
  }, values, names(values))
  list(study = study, args = asked_args(study, args))
}
