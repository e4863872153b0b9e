# The names of the page: each is a promise that is kept when some code first uses it, and so tells that it was read.

begin_names <- function() {
  S$held <- new.env(parent = emptyenv())     # by name: what has been made or loaded in this session
  S$names <- character()                     # all names there are before the chunk
  S$functions <- character()                 # those of them that stand for functions
  S$reads <- character()
  S$active <- list()                         # by name: what makes it anew each time it is asked for
  S$quiet <- FALSE
  S$untouched <- new.env(parent = emptyenv())
  S$keeper <- list2env(list(L = keep_promise), parent = baseenv())
}

# What a name stands for, when code asks for it. While we look ourselves, one that nobody has used stays so.
keep_promise <- function(name) {
  if (S$quiet) return(S$untouched)
  S$reads <- c(S$reads, name)
  if (!exists(name, envir = S$held, inherits = FALSE)) bring(name)
  get(name, envir = S$held, inherits = FALSE)
}

# Have a name, and all that holds something together with it, from the store.
bring <- function(name) {
  was_on <- S$on
  S$on <- FALSE
  on.exit(S$on <- was_on)
  send(list(event = "need", name = name))
  answer <- receive()
  made <- if (is.null(answer$file)) unserialize(answer$blob) else read_file(answer$file)
  values <- if (answer$together) made else stats::setNames(list(made), answer$names)
  for (one in answer$names) {
    value <- ready(values[[one]])
    assign(one, value, envir = S$held)
    S$shares[[one]] <- if (!is_plain(value) || has_table(value)) shares_of(value)
  }
}

read_file <- function(path) {
  con <- file(path, "rb", raw = TRUE)
  on.exit(close(con))
  unserialize(con)
}

# A table that is changed in place must have room of its own for it, or functions change a copy.
ready <- function(value) {
  if (inherits(value, "data.table") && is.list(value) && requireNamespace("data.table", quietly = TRUE)) {
    value <- data.table::setalloccol(value)
  } else if (has_table(value)) {
    kept <- attributes(value)
    value <- lapply(unclass(value), ready)
    attributes(value) <- kept
  }
  value
}

# Names that R keeps in the global environment for itself.
is_internal <- function(names) names == ".Random.seed" | startsWith(names, ".__C__") | startsWith(names, ".__T__") |
  startsWith(names, ".__M__") | names == ".__S3MethodsTable__." | names == ".requireCachedGenerics" | names == ".Last.value" |
  names == ".Traceback" | names == "last.warning"

global_names <- function() {
  all <- sort(enc2utf8(ls(G, all.names = TRUE, sorted = FALSE)), method = "radix")
  all[!is_internal(all)]
}

# Take over what the other end knows of names at this place, and make a promise of each.
stand <- function(message) {
  S$names <- as.character(unlist(message$names))
  S$functions <- as.character(unlist(message$functions))
  old <- intersect(as.character(unlist(message$forget)), ls(S$held, all.names = TRUE))
  if (length(old)) rm(list = old, envir = S$held)
  gone <- setdiff(ls(S$held, all.names = TRUE), S$names)
  if (length(gone)) rm(list = gone, envir = S$held)
  S$active <- S$active[intersect(names(S$active), S$names)]
  set_surroundings(message$ambient)
  hide()
}

hide <- function() {
  there <- global_names()
  if (length(there)) rm(list = there, envir = G)
  for (name in S$names) {
    if (is.null(S$active[[name]])) eval(call("delayedAssign", name, call("L", name), S$keeper, G))
    else makeActiveBinding(name, S$active[[name]], G)
  }
  S$reads <- character()
}

# What a name stands for now, without counting as a read; `S$untouched` where no code has used it.
look_at <- function(name) {
  S$quiet <- TRUE
  on.exit(S$quiet <- FALSE)
  tryCatch(get(name, envir = G, inherits = FALSE), error = function(e) S$untouched)
}

# A process that is forked reads unseen: it is handed everything.
fetch_all <- function() for (name in S$names) try(get(name, envir = G), silent = TRUE)

is_same <- function(one, other) identical(.Internal(address(one)), .Internal(address(other)))
