# What went wrong in code of the page, with its own lines and without our frames.

# By label: the code of chunks, as far as this session has been told of it.
begin_errors <- function(label, code) {
  S$label <- label
  S$sources <- stats::setNames(list(code), label)
}

syntax_failure <- function(error) {
  place <- syntax_place(conditionMessage(error), S$sources[[S$label]])
  described("SyntaxError", plain_words(place$what), list(frame_at(S$label, place$line, "", place$column)))
}

described <- function(kind, message, frames, ...) list(kind = kind, message = message, frames = frames, ...)

frame_at <- function(label, line, name = "", column = 0L) {
  lines <- strsplit(S$sources[[label]] %||% "", "\n", fixed = TRUE)[[1L]]
  list(file = paste0("chunk:", label), line = line, name = name,
       code = if (line > 0L && line <= length(lines)) lines[[line]] else "", column = column)
}

# `calls` are those that were active when it happened; the first `ours` are of this session.
describe_error <- function(error, calls, ours, top) {
  words <- plain_words(conditionMessage(error))
  if (grepl("^cannot open (the connection|URL|file)", words) && !is.null(S$warned)) words <- paste0(words, ": ", S$warned)
  if (inherits(error, "worn_quit")) {
    return(described("SystemExit", words, list(frame_at(S$label, line_of(top))), name = error$name, status = paste(error$status)))
  }
  call <- conditionCall(error)
  frames <- frames_of(calls[seq_along(calls) > ours], top)
  missing <- missing_in(words, error)
  hint <- if (grepl("without setting a mirror", words, fixed = TRUE)) "A page uses packages and does not install them: install it once, in R itself." else hint_for(missing)
  described(kind_of(error, call), words, frames, name = missing$name, missing = missing$kind, hint = hint)
}

kind_of <- function(error, call) {
  kinds <- setdiff(class(error), c("simpleError", "error", "condition", "rlang_error", "try-error", "errorCondition"))
  usual <- if (length(kinds) && !grepl("^(getvarError|packageNotFoundError|subscript|dim|missingArg|vctrs|dplyr|purrr|stackOverflow|CStack|expression)", kinds[1L])) kinds[1L] else "Error"
  if (usual != "Error" || is.null(call) || is_ours(call)) return(usual)
  head <- call[[1L]]
  name <- if (is.symbol(head)) as.character(head) else if (is.call(head)) paste(deparse(head, width.cutoff = 60L)[1L]) else ""
  if (nzchar(name) && nchar(name) < 60L && grepl("^[[:alpha:].][[:alnum:]._]*$", name) && !name %in% c("eval", "withVisible", "stop", "FUN")) paste0("Error in ", name, "()") else "Error"
}

is_ours <- function(call) {
  head <- call[[1L]]
  !is.symbol(head) && !is.call(head)
}

frames_of <- function(calls, top) {
  found <- list(frame_at(S$label, line_of(top)))
  for (place in seq_along(calls)) {
    call <- calls[[place]]
    at <- statement_of(call)
    if (is.null(at)) next
    caller <- if (place > 1L) name_of(calls[[place - 1L]]) else ""
    frame <- frame_at(at$label, at$line, if (at$inside) caller else "")
    last <- found[[length(found)]]
    if (last$file == frame$file && last$line == frame$line) found[[length(found)]] <- frame else found <- c(found, list(frame))
  }
  found
}

name_of <- function(call) if (is.call(call) && is.symbol(call[[1L]])) as.character(call[[1L]]) else ""

line_of <- function(top) {
  all <- statements_of(S$label)
  same <- Filter(function(one) one$depth == 0L && one$number == top, all)
  if (length(same)) same[[1L]]$line else 1L
}

# The innermost statement of the page that a call stands in.
statement_of <- function(call) {
  if (!is.call(call)) return(NULL)
  if (is.null(S$asked_sources)) {
    S$asked_sources <- TRUE
    more <- tryCatch(ask(list(event = "sources"))$sources, error = function(e) NULL)
    for (label in setdiff(names(more), names(S$sources))) S$sources[[label]] <- more[[label]]
  }
  for (label in c(S$label, setdiff(names(S$sources), S$label))) {
    found <- Filter(function(one) holds(one$code, call), statements_of(label))
    if (length(found)) {
      best <- found[[which.max(vapply(found, `[[`, 0L, "depth"))]]
      return(list(label = label, line = best$line, inside = best$inside))
    }
  }
  NULL
}

holds <- function(code, call) {
  if (identical(code, call)) return(TRUE)
  if (is.call(code) || is.pairlist(code)) for (part in as.list(code)) if (!missing(part) && holds(part, call)) return(TRUE)
  FALSE
}

# Every statement of a chunk: its code, its line, how deep it stands, and whether inside a function.
statements_of <- function(label) {
  known <- S$statements[[label]]
  if (!is.null(known)) return(known)
  code <- S$sources[[label]]
  bare <- tryCatch(parse(text = code, keep.source = FALSE, encoding = "UTF-8"), error = function(e) expression())
  placed <- tryCatch(parse(text = code, keep.source = TRUE, encoding = "UTF-8"), error = function(e) expression())
  found <- list()
  walk <- function(one, other, depth, inside, number) {
    if (!is.call(one)) return()
    is_function <- identical(one[[1L]], as.symbol("function"))
    refs <- attr(other, "srcref")
    for (place in seq_along(one)) {
      part <- one[[place]]
      if (missing(part) || place > length(other)) next
      if (identical(one[[1L]], as.symbol("{")) && !is.null(refs) && place > 1L && place <= length(refs)) {
        found <<- c(found, list(list(code = part, line = refs[[place]][1L], depth = depth + 1L, inside = inside, number = number)))
      }
      if (is.call(part)) walk(part, other[[place]], depth + 1L, inside || is_function, number)
    }
  }
  refs <- attr(placed, "srcref")
  for (number in seq_along(bare)) {
    found <- c(found, list(list(code = bare[[number]], line = refs[[number]][1L], depth = 0L, inside = FALSE, number = number)))
    walk(bare[[number]], placed[[number]], 0L, FALSE, number)
  }
  S$statements[[label]] <- found
  found
}

# What differs from run to run goes: addresses, and how full a stack was.
plain_words <- function(words) {
  words <- gsub("<(environment|pointer|bytecode): 0x[0-9a-f]+>", "<\\1>", words)
  sub("C stack usage +[0-9]+ is", "C stack usage is", paste(words, collapse = "\n"))
}

# --- what was probably meant ------------------------------------------------------------------

missing_in <- function(words, error) {
  patterns <- c(name = "^object '(.+)' not found", name = "could not find function \"(.+)\"", package = "there is no package called .(.+).$")
  for (place in seq_along(patterns)) {
    hit <- regmatches(words, regexec(patterns[[place]], words))[[1L]]
    if (length(hit)) return(list(kind = names(patterns)[place], name = hit[2L], is_function = place == 2L))
  }
  list(kind = "", name = "")
}

hint_for <- function(missing) {
  if (missing$kind == "package") {
    if (file.exists(".Rprofile")) return("This folder has an `.Rprofile`, which a page does not read: write `source(\".Rprofile\")` into its first chunk.")
    return("")
  }
  if (missing$kind != "name") return("")
  homes <- setdiff(packages_with(missing$name), sub("^package:", "", search()))
  if (!length(homes)) return("")
  paste0("Add `library(", homes[1L], ")` to a chunk above; a session starts with R's own packages alone.")
}
