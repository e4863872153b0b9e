# What is wrong with the R code of a page, as far as can be told without running it: read from standard input, told on standard output.
local({
  `%||%` <- function(one, other) if (is.null(one)) other else one
  chunks <- unserialize(file("stdin", "rb"))
  faults <- list()
  fault <- function(kind, label, line, column, what, name = "", hint = "", near = "") {
    faults[[length(faults) + 1L]] <<- list(kind = kind, label = label, line = as.integer(line), column = as.integer(column), what = what, name = name, hint = hint, near = near)
  }

  exported <- function(package) {
    folder <- system.file(package = package)
    info <- tryCatch(readRDS(file.path(folder, "Meta", "nsInfo.rds")), error = function(e) NULL)
    if (is.null(info)) return(character())
    all <- tryCatch(names(readRDS(file.path(folder, "R", paste0(package, ".rdx")))$variables), error = function(e) character())
    by_pattern <- unlist(lapply(info$exportPatterns, function(one) grep(one, all, value = TRUE)))
    c(info$exports, by_pattern, unlist(info$exportMethods), tryCatch(utils::data(package = package)$results[, "Item"], error = function(e) character()))
  }

  # What a package brings along, as those do that are only there to attach others.
  brought <- function(package) {
    described <- tryCatch(utils::packageDescription(package, fields = c("Depends", "Imports")), error = function(e) NULL)
    words <- unlist(strsplit(gsub("\\([^)]*\\)", "", paste(unlist(described), collapse = ",")), "[, \n]+"))
    setdiff(words[nzchar(words) & !is.na(words)], c("R", "NA"))
  }

  known <- unique(c(builtins(), ls(baseenv(), all.names = TRUE), unlist(lapply(search(), ls, all.names = TRUE)), "page", "given"))
  favourites <- c("ggplot2", "dplyr", "tidyr", "readr", "purrr", "tibble", "stringr", "data.table", "magrittr", "lubridate", "MASS", "lattice", "survival", "nlme", "mgcv")
  homes_of <- function(name) Filter(function(package) nzchar(system.file(package = package)) && name %in% exported(package), favourites)

  read <- lapply(chunks, function(chunk) {
    made <- tryCatch(parse(text = chunk$code, keep.source = TRUE, encoding = "UTF-8"), error = function(e) e)
    if (inherits(made, "error")) {
      words <- conditionMessage(made)
      place <- regmatches(words, regexec("^[^:]*:([0-9]+):([0-9]+): ([^\n]*)", words))[[1L]]
      if (length(place) == 4L) fault("code", chunk$label, place[2L], place[3L], place[4L]) else fault("code", chunk$label, 1L, 1L, sub("\n.*", "", words))
      return(NULL)
    }
    all <- utils::getParseData(made, includeText = TRUE)
    if (is.null(all)) return(NULL)
    row <- all[all$terminal & all$token != "COMMENT", ]
    row <- row[order(row$line1, row$col1), ]
    row$name <- gsub("^`|`$", "", row$text)
    row$before <- c("", utils::head(row$token, -1L))
    row$after <- c(utils::tail(row$token, -1L), "")
    names_here <- row$token %in% c("SYMBOL", "STR_CONST", "SYMBOL_FUNCTION_CALL")
    bound <- row$name[row$token %in% c("SYMBOL_FORMALS")]
    bound <- c(bound, gsub("^[\"']|[\"']$", "", row$name[names_here & row$after %in% c("LEFT_ASSIGN", "EQ_ASSIGN")]), row$name[names_here & row$before == "RIGHT_ASSIGN"], row$name[row$token == "SYMBOL" & row$after == "IN"])
    calls <- which(row$token == "SYMBOL_FUNCTION_CALL" & row$name %in% c("assign", "delayedAssign", "makeActiveBinding", "setGeneric", "setClass", "setRefClass"))
    bound <- c(bound, gsub("^[\"']|[\"']$", "", row$text[pmin(calls + 2L, nrow(row))]))
    list(label = chunk$label, all = all, row = row, bound = unique(bound), top = unique(bound))
  })
  read <- Filter(Negate(is.null), read)
  later <- list()
  for (one in read) for (name in one$bound) if (is.null(later[[name]])) later[[name]] <- one$label

  quoting <- c("with", "within", "subset", "transform", "aes", "mutate", "filter", "select", "summarise", "summarize", "group_by", "arrange", "transmute", "quote", "bquote", "substitute", "expression", "library", "require", "rm", "lm", "glm", "aggregate", "local", "function", "tryCatch", "try", "vars", "count", "pivot_longer", "pivot_wider", "exists", "curve", "data")
  opening <- c("source", "load", "attach", "eval", "evalq", "sys.source", "list2env", "readRDS_into", "data")

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
    swapped <- vapply(names, function(one) nchar(one) == nchar(name) && identical(sort(strsplit(one, "")[[1L]]), sort(strsplit(name, "")[[1L]])), NA)
    best <- which(far <= 1 | swapped & far <= 2)
    if (length(best) && nchar(name) > 3L) names[best[which.min(far[best])]] else ""
  }

  is_open <- FALSE
  there <- character()
  for (one in read) {
    row <- one$row
    for (at in which(row$token == "SYMBOL_FUNCTION_CALL" & row$name %in% c("library", "require", "requireNamespace"))) {
      if (at + 2L > nrow(row) || !row$token[at + 2L] %in% c("SYMBOL", "STR_CONST") || row$before[at] == "NS_GET") next
      package <- gsub("^[\"']|[\"']$", "", row$text[at + 2L])
      if (any(row$name == "character.only")) next
      if (!nzchar(system.file(package = package))) {
        if (row$name[at] == "library") fault("packages", one$label, row$line1[at + 2L], row$col1[at + 2L], "", package)
        is_open <- TRUE
      } else if (row$name[at] != "requireNamespace") {
        exports <- exported(package)
        known <- unique(c(known, exports))
        for (other in brought(package)) if (length(exports) < 40L && nzchar(system.file(package = other))) known <- unique(c(known, exported(other)))
      }
    }
    for (at in which(row$token == "SYMBOL_PACKAGE")) {
      if (!nzchar(system.file(package = row$name[at]))) fault("packages", one$label, row$line1[at], row$col1[at], "", row$name[at])
    }
    if (any(row$token == "SYMBOL_FUNCTION_CALL" & row$name %in% opening)) is_open <- TRUE
    seen <- character()
    here <- c(known, there, one$bound)
    for (at in which(row$token == "SYMBOL_FUNCTION_CALL" & !row$before %in% c("'$'", "'@'", "NS_GET", "NS_GET_INT"))) {
      name <- row$name[at]
      if (name %in% here || name %in% seen || is_open) next
      seen <- c(seen, name)
      homes <- homes_of(name)
      near <- if (length(homes)) "" else near_of(name, here)
      fault("names", one$label, row$line1[at], row$col1[at], later[[name]] %||% "", name, if (length(homes)) homes[1L] else "", near)
    }
    for (at in which(row$token == "SYMBOL" & !row$before %in% c("'$'", "'@'", "NS_GET", "NS_GET_INT"))) {
      name <- row$name[at]
      if (name %in% here || name %in% seen || is_open || is.null(later[[name]]) || later[[name]] == one$label) next
      if (inside_quoting(one$all, row$id[at])) next
      seen <- c(seen, name)
      fault("names", one$label, row$line1[at], row$col1[at], later[[name]], name)
    }
    there <- unique(c(there, one$bound))
  }
  out <- file("/proc/self/fd/1", "wb", raw = TRUE)
  writeBin(serialize(list(faults = faults, known = as.list(there)), NULL, xdr = FALSE, version = 2L), out)
  flush(out)
})
