# Functions of R that tell of what passes names by: files that are asked for, the environment, processes, what patches packages.
#
# A wrapped function first notes, and then does what it always did: its arguments, frames and results stay the same.

# Put a call of `note` before what a function does. It is evaluated in the function's own frame, and never fails.
wrap_one <- function(name, note, where = baseenv()) {
  made <- get(name, envir = where, inherits = FALSE)
  if (is.primitive(made)) return()
  body(made) <- call("{", as.call(list(noting, note, quote(environment()))), body(made))
  put_in_place(name, made, where)
}

# Have a function stand for a name that is locked.
put_in_place <- function(name, made, where) {
  unlock <- get("unlockBinding", baseenv())
  unlock(name, where)
  assign(name, made, envir = where)
  lockBinding(name, where)
}

noting <- function(note, frame) {
  if (!S$on || S$loading > 0L) return(invisible())
  S$on <- FALSE
  on.exit(S$on <- TRUE)
  tryCatch(note(frame), error = function(e) NULL, warning = function(w) NULL)
  invisible()
}

from <- function(frame, name) tryCatch(eval(as.symbol(name), frame), error = function(e) NULL)
dots <- function(frame) tryCatch(as.character(unlist(eval(quote(list(...)), frame))), error = function(e) character())

wrap_base <- function() {
  S$loading <- 0L
  S$from_packages <- character()
  begin_looks()
  asks <- function(kind, argument) function(frame)
    note_paths(kind, if (argument == "...") dots(frame) else from(frame, argument))
  for (name in c("file.exists", "file.info")) wrap_one(name, asks("file", "..."))
  for (name in c("file.remove", "file.create")) wrap_one(name, asks(if (name == "file.create") "written" else "file", "..."))
  for (name in c("file.rename", "file.copy", "file.symlink", "file.link", "file.append")) {
    both <- names(formals(get(name)))[1:2]
    wrap_one(name, local({ both <- both; function(frame) for (one in both) note_paths("file", from(frame, one)) }))
  }
  wrap_one("dir.create", asks("file", "path"))
  wrap_one("unlink", function(frame) {
    paths <- as.character(from(frame, "x"))
    note_paths("file", paths)
    wild <- grepl("[*?[]", paths)
    if (any(wild)) note_paths("listing", dirname(paths[wild]))
  })
  wrap_one("file.access", asks("file", "names"))
  wrap_one("dir.exists", asks("file", "paths"))
  wrap_one("normalizePath", asks("file", "path"))
  wrap_one("list.files", function(frame) note_paths(if (isTRUE(from(frame, "recursive"))) "tree" else "listing", from(frame, "path")))
  wrap_one("list.dirs", function(frame) note_paths("tree", from(frame, "path")))
  wrap_one("Sys.glob", function(frame) note_paths("listing", dirname(from(frame, "paths"))))
  for (name in c("file", "gzfile", "bzfile", "xzfile")) wrap_one(name, function(frame) {
    path <- from(frame, "description")
    if (is.character(path) && grepl("^(https?|ftp)s?://", path[1L])) S$network <- TRUE
    mode <- from(frame, "open")
    if (is.character(path) && nzchar(path[1L])) note_paths(if (grepl("^w", mode[1L])) "written" else "file", path)
  })
  wrap_one("url", function(frame) S$network <- TRUE)
  wrap_one("socketConnection", function(frame) S$network <- TRUE)
  wrap_one("Sys.getenv", function(frame) {
    asked <- from(frame, "x")
    if (is.null(asked)) S$spawned <- TRUE else note_variables(as.character(asked))
  })
  wrap_one("system", function(frame) note_process(from(frame, "command")))
  wrap_one("system2", function(frame) note_process(from(frame, "command")))
  wrap_one("pipe", function(frame) note_process(from(frame, "description")))
  wrap_one("unlockBinding", function(frame) {
    where <- from(frame, "env")
    if (is.environment(where) && (isNamespace(where) || identical(where, baseenv()) || startsWith(environmentName(where), "package:"))) {
      note_effect(paste("it changed", from(frame, "sym"), "of a package"))
    }
  })
  wrap_one("registerS3method", function(frame) note_effect("it registered a method"))
  wrap_one("setHook", function(frame) note_effect("it set a hook"))
  wrap_one("reg.finalizer", function(frame) {
    note_effect("it set what happens when something goes")
    if (isTRUE(from(frame, "onexit"))) S$exits <- S$exits + 1L
  })
  wrap_one("attach", function(frame) {
    if (!startsWith(as.character(from(frame, "name") %||% "")[1L], "package:")) note_effect("it attached a list")
  })
  setHook(packageEvent("parallel", "onLoad"), function(...) wrap_one("mcfork", function(frame) {
    S$spawned <- TRUE
    S$given_reads <- c(S$given_reads, names(S$given))
    fetch_all()
  }, asNamespace("parallel")))
  setHook(packageEvent("lattice", "onLoad"), function(...) wrap_one("trellis.par.set", function(frame) {
    if (identical(topenv(eval(quote(parent.frame()), frame)), G)) note_effect("it set looks of lattice")   # it does so itself, too
  }, asNamespace("lattice")))
  for (name in c("q", "quit")) replace_quit(name)
  refuse_locking()
  wrap_loading()
}

# Whether code of the page has left something for the end of the session: what is to be called, or closed, then.
is_left <- function() S$exits > 0L || has_last() || open_connections() > S$connections

has_last <- function() exists(".Last", G, inherits = FALSE)

`%||%` <- function(one, other) if (is.null(one)) other else one

note_process <- function(command) {
  S$spawned <- TRUE
  words <- regmatches(command[1L], gregexpr("[[:alnum:]_./+-]+", command[1L]))[[1L]]
  S$programs <- c(S$programs, words)
  note_paths("named", words)
}

# Loading a package reads files, sets options and registers methods: that is told by the package's own version.
wrap_loading <- function() for (name in c("loadNamespace", "attachNamespace")) wrap_one_loading(name)

wrap_one_loading <- function(name) {
  where <- baseenv()
  original <- get(name, where)
  made <- original
  arguments <- lapply(stats::setNames(names(formals(original)), names(formals(original))), as.symbol)
  body(made) <- as.call(list(as.symbol("{"), as.call(list(begin_loading)), call("on.exit", as.call(list(end_loading))),
                             as.call(c(list(original), arguments))))
  put_in_place(name, made, where)
}

begin_loading <- function() {
  if (S$loading == 0L) S$options_before <- names(options())
  S$loading <- S$loading + 1L
}

end_loading <- function() {
  S$loading <- S$loading - 1L
  if (S$loading == 0L && S$running) for (name in setdiff(watched_spaces(), names(S$spaces))) S$spaces[[name]] <- look_at_space(name)
  if (S$loading == 0L) S$from_packages <- union(S$from_packages, setdiff(names(options()), S$options_before))
}

# Leaving would end the session: it is told as an error where it stands.
replace_quit <- function(name) {
  where <- baseenv()
  made <- get(name, where)
  body(made) <- as.call(list(leaving, as.symbol("status"), name))
  put_in_place(name, made, where)
}

# Chunks bind and lose names: the environment that holds those of the page stays open.
refuse_locking <- function() {
  where <- baseenv()
  made <- get("lockEnvironment", where)
  body(made) <- call("{", as.call(list(keep_open, as.symbol("env"))), body(made))
  put_in_place("lockEnvironment", made, where)
}

keep_open <- function(env) {
  if (identical(env, G)) stop("the environment that holds the page's names cannot be locked, since chunks below bind names there; lock one of your own", call. = FALSE)
}

leaving <- function(status, name) {
  stop(structure(class = c("worn_quit", "error", "condition"), list(message = paste0(name, "()"), call = NULL, status = status, name = name)))
}
