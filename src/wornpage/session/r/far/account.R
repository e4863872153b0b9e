# What a chunk read, wrote and left behind, told when it has come to its end.

# Tell of every name that may have been changed: those that code has used or bound, and what can be changed through others.
account <- function(failed) {
  now <- global_names()
  touched <- character()
  live <- character()
  for (name in now) {
    if (bindingIsActive(as.symbol(name), G)) {
      live <- c(live, name)
      S$active[[name]] <- activeBindingFunction(as.symbol(name), G)
      note_effect(paste0("`", name, "` is made anew each time it is asked for"))
      next
    }
    value <- look_at(name)
    if (name %in% S$names && !name %in% S$reads && identical(value, S$untouched)) next
    S$active[[name]] <- NULL
    if (identical(value, S$untouched)) {
      live <- c(live, name)
      hold_broken(name)
      next
    }
    touched <- c(touched, name)
    if (!name %in% S$reads || !exists(name, envir = S$held, inherits = FALSE) || !is_same(value, get(name, envir = S$held))) {
      assign(name, value, envir = S$held)
      tell_value(name, value, "written")
    } else if (length(S$shares[[name]]) || has_table(value)) tell_value(name, value, "read")
  }
  # What can be changed in place may have been, through whatever reaches it.
  for (name in setdiff(intersect(ls(S$held, all.names = TRUE), S$names), c(touched, live, setdiff(S$names, now)))) {
    if (length(S$shares[[name]])) tell_value(name, get(name, envir = S$held), "held")
  }
  list(reads = as.list(unique(S$reads)), live = as.list(live), gone = as.list(setdiff(S$names, now)), now = as.list(now))
}

# A promise of the page's that cannot be kept: it fails again whenever it is asked for.
hold_broken <- function(name) {
  words <- tryCatch(get(name, envir = G), error = conditionMessage)
  delayedAssign(name, stop(words, call. = FALSE), assign.env = S$held)
}

has_table <- function(value) length(growing(value)) > 0L

# Send what a name stands for: as bytes, with the addresses of what in it can be changed in place.
tell_value <- function(name, value, how) {
  plain <- !has_table(value) && is_plain(value)
  kind <- if (is_only_live(value)) "live" else if (plain) "plain" else "code"
  made <- if (plain) list(bytes = as_bytes(value), shares = character()) else bytes_of(value)
  S$shares[[name]] <- if (length(made$shares)) made$shares
  send(list(event = "value", of = S$label, name = name, how = how, kind = kind, is_function = is.function(value), shares = as.list(made$shares), parts = as.list(parts_of(value))), list(made$bytes))
}

# What can be asked for by a word: columns of a frame, names of a list. For help while writing; nothing hangs on it.
parts_of <- function(value) {
  if (!is.list(value) || isS4(value) || !is.null(attr(value, "class", exact = TRUE)) && !inherits(value, "data.frame")) return(character())
  found <- attr(value, "names", exact = TRUE)
  tryCatch(utils::head(found[!is.na(found) & nzchar(found) & nchar(found) <= 80L], 200L), error = function(e) character())
}

# What no store can hold: it hangs on tables within the methods package, or on this process.
is_only_live <- function(value) {
  inherits(value, "connection") || isS4(value) && (methods::is(value, "envRefClass") || methods::is(value, "genericFunction") ||
    methods::is(value, "refObjectGenerator") || methods::is(value, "classGeneratorFunction"))
}

# Names that hold something in common, as one: what they share stays shared.
tell_together <- function(message) {
  names <- as.character(unlist(message$names))
  send(list(event = "value", how = "together", names = as.list(names)), list(as_bytes(mget(names, envir = S$held))))
  send(list(event = "together"))
}

# Which names are asked for by words that code had, but that were not used: whether they are there counts.
masks <- function(now) {
  functions <- now[vapply(now, function(name) {
    value <- look_at(name)
    if (identical(value, S$untouched)) name %in% S$functions else is.function(value)
  }, NA)]
  functions[vapply(functions, is_mask, NA, all = functions)]
}

# Whether code that does not mention a function may come upon it: as a method, or in place of one of a package's.
is_mask <- function(name, all) {
  if (exists(name, envir = parent.env(G), mode = "function")) return(TRUE)
  dots <- gregexpr(".", name, fixed = TRUE)[[1L]]
  for (dot in dots[dots > 1L]) {
    generic <- substr(name, 1L, dot - 1L)
    if (generic %in% all || is_generic(generic)) return(TRUE)
  }
  FALSE
}

group_generics <- c("Ops", "Math", "Summary", "Complex")
inner_generics <- c("[", "[[", "$", "[<-", "[[<-", "$<-", "length", "length<-", "lengths", "dimnames", "dimnames<-", "levels<-", "c", "unlist", "cbind", "rbind",
  "as.vector", "is.na", "rep", "seq.int", "xtfrm", "names", "names<-", "dim", "dim<-", "as.character", "as.double", "as.integer", "as.environment", "is.array", "is.matrix", "is.numeric")

is_generic <- function(name) {
  if (name %in% c(group_generics, inner_generics)) return(TRUE)
  found <- get0(name, envir = parent.env(G), mode = "function")
  if (is.null(found)) return(FALSE)
  is.primitive(found) || "UseMethod" %in% all.names(body(found)) || isS4(found)
}

# Whether the chunk defined, or took away, something that only running it again brings back.
definitions_left <- function(before) {
  now <- definitions()
  if (!setequal(names(now), names(before)) || !all(vapply(names(now), function(name) same_entries(now[[name]], before[[name]]), NA))) {
    note_effect("it defined classes or methods")
  }
}

# What R keeps of classes and methods in the page's names: for tables of methods what is in them.
definitions <- function() {
  all <- ls(G, all.names = TRUE)
  all <- all[is_internal(all) & startsWith(all, ".__")]
  lapply(stats::setNames(all, all), function(name) {
    held <- get(name, envir = G)
    if (is.environment(held) && startsWith(name, ".__T__")) as.list.environment(held, all.names = TRUE) else list(held)
  })
}

same_entries <- function(one, other)
  setequal(names(one), names(other)) && length(one) == length(other) &&
    all(vapply(seq_along(one), function(at) is_same(one[[at]], other[[names(one)[at] %||% at]]), NA))

open_connections <- function() length(getAllConnections())
