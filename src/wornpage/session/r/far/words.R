# Words of the author's own: Markdown with marks, which are answered here in the scope of the code that calls.

told <- function(text, frame) {
  text <- enc2utf8(paste(as.character(text), collapse = "\n"))
  if (!grepl("{", text, fixed = TRUE)) return(list(text = text, answers = list()))
  asked <- ask(list(event = "words", text = text))
  answers <- lapply(asked$marks, function(one) scalar(evaluate_mark(one$expression, frame), one$form))
  if (any(vapply(answers, function(one) nzchar(one$form %||% ""), NA))) ask(list(event = "formats", answers = answers))
  list(text = text, answers = answers)
}

# Every text in what a table may be told, with what its marks come to.
all_told <- function(frame, ...) {
  texts <- unique(unlist(lapply(list(...), function(one) if (is.character(one)) one else unlist(Filter(is.character, as.list(one))))))
  texts <- texts[grepl("{", texts, fixed = TRUE)]
  lapply(texts, told, frame = frame)
}

evaluate_mark <- function(expression, frame) {
  code <- parse(text = expression, keep.source = FALSE, encoding = "UTF-8")
  value <- NULL
  for (one in code) value <- eval(one, frame)
  value
}

# A value as its type and what it is.
scalar <- function(value, form = "") {
  form <- form %||% ""
  if (is.null(value)) return(list(type = "missing", value = NULL))
  if (length(value) == 1L && !is.list(value) && is.atomic(value)) {
    if (is.na(value)) return(list(type = "missing", value = NULL, form = form))
    if (inherits(value, "Date")) return(list(type = "date", value = format(value, "%Y-%m-%d"), form = form))
    if (inherits(value, "POSIXct")) return(list(type = "moment", value = moment(value), form = form))
    if (inherits(value, "integer64")) return(list(type = "whole", value = as.character(value), form = form))
    if (is.factor(value)) return(list(type = "text", value = as.character(value), form = form))
    if (!is.object(value) || is.numeric(unclass(value)) && inherits(value, c("noquote", "AsIs", "table"))) return(bare_scalar(unclass(value), form))
  }
  if (inherits(value, "POSIXlt")) return(scalar(as.POSIXct(value), form))
  if (is.atomic(value) && !is.object(value) && !is.null(dim(value)) && length(value) == 1L) return(bare_scalar(c(value), form))
  list(type = "text", value = paste_value(value), form = form)
}

bare_scalar <- function(value, form) {
  attributes(value) <- NULL
  if (is.logical(value)) return(list(type = "truth", value = value, form = form))
  if (is.integer(value)) return(list(type = "whole", value = value, form = form))
  if (is.double(value)) {
    is_whole <- is.finite(value) && value == round(value) && abs(value) < 2^53
    return(list(type = if (is_whole) "whole" else "number", value = value, form = form))
  }
  list(type = "text", value = enc2utf8(as.character(value)), form = form)
}

moment <- function(value) {
  zone <- attr(value, "tzone") %||% ""
  text <- format(value, "%Y-%m-%dT%H:%M:%S")
  offset <- format(value, "%z")
  if (zone[1L] %in% c("", "UTC", "GMT")) text else paste0(text, substr(offset, 1L, 3L), ":", substr(offset, 4L, 5L))
}

# Several values in a row, as a sentence has them.
paste_value <- function(value) {
  parts <- if (is.character(value) && !is.object(value)) value
           else if (is.atomic(value) || is.factor(value)) trimws(vapply(seq_along(value), function(at) paste(format(value[at]), collapse = " "), ""))
           else if (is.list(value) && !is.object(value)) vapply(value, short_words, "")
           else trimws(paste(utils::capture.output(print(value)), collapse = " "))
  enc2utf8(plain_words(paste(parts, collapse = ", ")))
}
