# What a value of a chunk becomes on the page: a table, a figure, or the text that it prints.

show_value <- function(value) {
  was_on <- S$on
  S$on <- FALSE
  on.exit(S$on <- was_on)
  if (is_drawing(value)) {
    S$on <- was_on
    return(print_value(value))
  }
  table <- if (has_own_print(value) || is.data.frame(value) && !length(value)) NULL else quietly(as_table(value))
  if (!is.null(table)) return(show_table(list(table = table)))
  fit <- if (is_fit(value)) quietly(read_fit(value)) else NULL
  if (!is.null(fit) && length(fit$terms)) return(show_fits(list(fit)))
  S$on <- was_on
  print_value(value)
}

# As R prints what stands alone on a line: by methods of the page's own too.
print_value <- function(value) {
  if (isS4(value)) return(methods::show(value))
  place <- new.env(parent = G)
  assign("x", value, envir = place)
  eval(quote(base::print(x)), place)
}

is_drawing <- function(value) inherits(value, c("ggplot", "trellis", "grob", "gtable", "recordedplot", "patchwork"))

# Whether the page says itself how such a value is printed.
has_own_print <- function(value) {
  kinds <- class(value)
  any(paste0("print.", kinds) %in% S$functions) || any(vapply(paste0("print.", kinds), function(name) exists(name, envir = G, inherits = FALSE), NA))
}

fits_by_name <- c("lm", "glm", "nls", "htest", "summary.lm", "summary.glm", "gls", "lme", "gam", "coxph", "polr", "rlm", "multinom", "negbin", "survreg", "lmerMod", "glmerMod", "aov")

is_fit <- function(value) is.list(value) && is.object(value) && !inherits(value, "aov") && inherits(value, fits_by_name)

show_table <- function(message) {
  message$event <- "table"
  message$after <- mark()
  ask(message)
  invisible()
}

show_fits <- function(fits, ...) {
  remark <- unlist(lapply(fits, `[[`, "remark"))
  send_fits(list(fits = fits, remarks = as.list(remark), ...))
}

send_fits <- function(message) {
  message$event <- "model"
  message$after <- mark()
  ask(message)
  invisible()
}

notice <- function(words) {
  was_on <- S$on
  S$on <- FALSE
  on.exit(S$on <- was_on)
  show(list(kind = "notice", text = enc2utf8(plain_words(words))))
}
