# What is wrong with the R code of a page, as far as can be told without running it: read from standard input, told on standard output.

`%||%` <- function(one, other) if (is.null(one)) other else one
for (file in c("packages.R", "parsing.R")) sys.source(file.path(Sys.getenv("WORN_FAR"), file), environment(), keep.source = FALSE)

faults <- list()
fault <- function(kind, label, line, column, what, name = "", hint = "", near = "") {
  faults[[length(faults) + 1L]] <<- list(kind = kind, label = label, line = as.integer(line), column = as.integer(column), what = what, name = name, hint = hint, near = near)
}

# --- code as a row of tokens ------------------------------------------------------------------

binders <- c("assign", "delayedAssign", "makeActiveBinding", "setGeneric", "setClass", "setRefClass")
unquoted <- function(texts) gsub("^[\"']|[\"']$", "", texts)

# A chunk's tokens and the names that it binds; NULL, and a fault, if it is no code.
read_chunk <- function(chunk) {
  made <- tryCatch(parse(text = chunk$code, keep.source = TRUE, encoding = "UTF-8"), error = function(e) e)
  if (inherits(made, "error")) return(no_code(chunk, conditionMessage(made)))
  all <- utils::getParseData(made, includeText = TRUE)
  if (is.null(all)) return(NULL)
  row <- all[all$terminal & all$token != "COMMENT", ]
  row <- row[order(row$line1, row$col1), ]
  row$name <- gsub("^`|`$", "", row$text)
  row$before <- c("", utils::head(row$token, -1L))
  row$after <- c(utils::tail(row$token, -1L), "")
  list(label = chunk$label, all = all, row = row, bound = bound_in(row))
}

no_code <- function(chunk, words) {
  place <- syntax_place(words, chunk$code)
  fault("code", chunk$label, place$line, place$column, place$what)
  NULL
}

bound_in <- function(row) {
  is_name <- row$token %in% c("SYMBOL", "STR_CONST", "SYMBOL_FUNCTION_CALL")
  calls <- which(row$token == "SYMBOL_FUNCTION_CALL" & row$name %in% binders)
  unique(c(row$name[row$token %in% "SYMBOL_FORMALS"],
           unquoted(row$name[is_name & row$after %in% c("LEFT_ASSIGN", "EQ_ASSIGN")]),
           row$name[is_name & row$before == "RIGHT_ASSIGN"],
           row$name[row$token == "SYMBOL" & row$after == "IN"],
           unquoted(row$text[pmin(calls + 2L, nrow(row))])))
}

# --- packages ---------------------------------------------------------------------------------

folder_of <- function(package) system.file(package = package)

with_data <- function(package)
  c(exported(folder_of(package)), tryCatch(utils::data(package = package)$results[, "Item"], error = function(e) character()))

# What a package brings along, as those do that are only there to attach others.
brought <- function(package) {
  described <- tryCatch(utils::packageDescription(package, fields = c("Depends", "Imports")), error = function(e) NULL)
  words <- unlist(strsplit(gsub("\\([^)]*\\)", "", paste(unlist(described), collapse = ",")), "[, \n]+"))
  setdiff(words[nzchar(words) & !is.na(words)], c("R", "NA"))
}

# Names that are there once a package is attached.
attached <- function(package) {
  found <- with_data(package)
  others <- if (length(found) < 40L) Filter(function(one) nzchar(folder_of(one)), brought(package))
  c(found, unlist(lapply(others, with_data)))
}

known <- unique(c(builtins(), ls(baseenv(), all.names = TRUE), unlist(lapply(search(), ls, all.names = TRUE)), "page", "given"))
is_open <- FALSE    # whether names may be there that cannot be read off the code

check_packages <- function(one) {
  row <- one$row
  for (at in which(row$token == "SYMBOL_FUNCTION_CALL" & row$name %in% c("library", "require", "requireNamespace"))) {
    if (at + 2L > nrow(row) || !row$token[at + 2L] %in% c("SYMBOL", "STR_CONST") || row$before[at] == "NS_GET" || any(row$name == "character.only")) next
    package <- unquoted(row$text[at + 2L])
    if (!nzchar(folder_of(package))) {
      if (row$name[at] == "library") fault("packages", one$label, row$line1[at + 2L], row$col1[at + 2L], "", package)
      is_open <<- TRUE
    } else if (row$name[at] != "requireNamespace") known <<- unique(c(known, attached(package)))
  }
  for (at in which(row$token == "SYMBOL_PACKAGE")) {
    if (!nzchar(folder_of(row$name[at]))) fault("packages", one$label, row$line1[at], row$col1[at], "", row$name[at])
  }
}

# --- names ------------------------------------------------------------------------------------

# Within calls of these, names may be those of columns.
quoting <- c("with", "within", "subset", "transform", "aes", "mutate", "filter", "select", "summarise", "summarize", "group_by", "arrange", "transmute", "quote", "bquote", "substitute", "expression", "library", "require", "rm", "lm", "glm", "aggregate", "local", "function", "tryCatch", "try", "vars", "count", "pivot_longer", "pivot_wider", "exists", "curve", "data")
opening <- c("source", "load", "attach", "eval", "evalq", "sys.source", "list2env", "readRDS_into", "data")
behind <- c("'$'", "'@'", "NS_GET", "NS_GET_INT")

inside_quoting <- function(all, id) {
  parents <- stats::setNames(all$parent, all$id)
  at <- parents[[as.character(id)]]
  while (!is.null(at) && at > 0) {
    inner <- all[all$parent == at, ]
    if (any(inner$token %in% c("'~'", "FUNCTION", "'\\\\'", "'['", "LBB"))) return(TRUE)
    heads <- all$text[all$parent %in% inner$id[1L] & all$token == "SYMBOL_FUNCTION_CALL"]
    if (length(heads) && (heads[1L] %in% quoting || !heads[1L] %in% known)) return(TRUE)
    at <- parents[as.character(at)]
    at <- if (is.na(at)) NULL else at[[1L]]
  }
  FALSE
}

near_of <- function(name, names) {
  names <- unique(names[abs(nchar(names) - nchar(name)) <= 2L & grepl("^[[:alpha:].]", names)])
  far <- utils::adist(name, names, ignore.case = TRUE)
  letters_of <- function(word) sort(strsplit(word, "")[[1L]])
  swapped <- vapply(names, function(one) nchar(one) == nchar(name) && identical(letters_of(one), letters_of(name)), NA)
  best <- which(far <= 1 | swapped & far <= 2)
  if (length(best) && nchar(name) > 3L) names[best[which.min(far[best])]] else ""
}

# Functions that nobody has defined, and names that are defined further down, each at its first use.
check_names <- function(one, there, later) {
  if (is_open) return()
  row <- one$row
  here <- c(known, there, one$bound)
  is_new <- !row$name %in% here & !row$before %in% behind
  told <- character()
  for (at in which(is_new & row$token == "SYMBOL_FUNCTION_CALL")) {
    name <- row$name[at]
    if (name %in% told) next
    told <- c(told, name)
    home <- intersect(favourites, packages_with(name))
    near <- if (length(home)) "" else near_of(name, here)
    fault("names", one$label, row$line1[at], row$col1[at], later[[name]] %||% "", name, if (length(home)) home[1L] else "", near)
  }
  for (at in which(is_new & row$token == "SYMBOL")) {
    name <- row$name[at]
    if (name %in% told || is.null(later[[name]]) || later[[name]] == one$label || inside_quoting(one$all, row$id[at])) next
    told <- c(told, name)
    fault("names", one$label, row$line1[at], row$col1[at], later[[name]], name)
  }
}

# --- a page -----------------------------------------------------------------------------------

check <- function(chunks) {
  read <- Filter(Negate(is.null), lapply(chunks, read_chunk))
  later <- list()
  for (one in read) for (name in one$bound) if (is.null(later[[name]])) later[[name]] <- one$label
  there <- character()
  for (one in read) {
    check_packages(one)
    if (any(one$row$token == "SYMBOL_FUNCTION_CALL" & one$row$name %in% opening)) is_open <<- TRUE
    check_names(one, there, later)
    there <- unique(c(there, one$bound))
  }
  list(faults = faults, known = as.list(there))
}

told <- check(unserialize(file("stdin", "rb")))
out <- file("/proc/self/fd/1", "wb", raw = TRUE)
writeBin(serialize(told, NULL, xdr = FALSE, version = 2L), out)
flush(out)
