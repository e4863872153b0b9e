# What holds beside names and can be set: options, packages, the folder, the environment, and the like.
#
# Each item is a text from which it can be set again; only those are told that are not as they were at first.

not_ours <- c("device", "worn.page")

surroundings_whole <- function() {
  found <- list(
    options = options()[setdiff(names(options()), not_ours)],
    search = search(), namespaces = loadedNamespaces(),
    folder = getwd(), variables = Sys.getenv(), locale = Sys.getlocale(), rng = RNGkind(), libraries = .libPaths(),
    umask = format(Sys.umask(NA)), palette = grDevices::palette(), theme = drawing_theme()
  )
  found
}

# The looks that drawings made of layers have, where that library is loaded.
drawing_theme <- function() {
  if (!isNamespaceLoaded("ggplot2")) return(NULL)
  space <- asNamespace("ggplot2")
  held <- get0("ggplot_global", envir = space, inherits = FALSE)
  if (is.environment(held)) get0("theme_current", envir = held, inherits = FALSE) else NULL
}

usual_theme <- function() {
  if (!isNamespaceLoaded("ggplot2")) return(NULL)
  if (!is.null(S$page_theme)) return(S$page_theme)
  held <- get0("ggplot_global", envir = asNamespace("ggplot2"), inherits = FALSE)
  if (is.environment(held)) get0("theme_default", envir = held, inherits = FALSE) else NULL
}

as_text <- function(value) rawToChar(suppressWarnings(serialize(value, NULL, ascii = TRUE, version = 2L)))
from_text <- function(text) unserialize(charToRaw(text))

# What is not as it was when the session began, as texts by item; `live` stands before what cannot be set by its text.
surroundings_now <- function() {
  first <- S$first
  now <- surroundings_whole()
  items <- list()
  changed <- differing_options(now$options, first$options)
  if (length(changed)) items$options <- if (is_plain(changed)) as_text(changed) else option_words(changed)
  attached <- setdiff_in_order(now$search, first$search)
  spaces <- sort(setdiff(now$namespaces, first$namespaces), method = "radix")
  missing <- setdiff(first$search, now$search)
  if (length(attached) || length(spaces) || length(missing)) {
    items$packages <- as_text(list(attached = where_from(attached), loaded = where_from(paste0("package:", spaces)), detached = missing))
  }
  for (item in c("folder", "locale", "rng", "libraries", "umask", "palette")) {
    if (!identical(now[[item]], first[[item]])) items[[item]] <- as_text(now[[item]])
  }
  if (!is.null(now$theme) && !identical(now$theme, usual_theme())) items$theme <- as_text(now$theme)
  variables <- unique(c(names(now$variables), names(first$variables)))
  for (name in variables[!variables %in% c("R_SESSION_TMPDIR", "PWD", "OLDPWD")]) {
    before <- unname(first$variables[name])
    after <- unname(now$variables[name])
    if (!identical(before, after)) items[[paste0("env:", name)]] <- if (is.na(after)) "gone" else paste0("=", after)
  }
  items
}

setdiff_in_order <- function(now, first) now[!now %in% c(first, ".GlobalEnv")]

differing_options <- function(now, first) {
  names <- sort(union(names(now), names(first)), method = "radix")
  names <- names[!vapply(names, function(name) identical(now[[name]], first[[name]]), NA)]
  stats::setNames(lapply(names, function(name) now[[name]]), names)
}

# Options that hold functions cannot be told apart by a text: those that a package set when it was loaded come with it.
option_words <- function(changed) {
  plain <- vapply(changed, is_plain, NA)
  if (all(plain | names(changed) %in% S$from_packages)) as_text(changed[plain]) else paste0("live", as_text(changed[plain]))
}

# Packages with the folders they lie in; a list that was attached has none.
where_from <- function(entries) {
  names <- sub("^package:", "", entries)
  lapply(stats::setNames(names, names), function(name) {
    path <- tryCatch(getNamespaceInfo(name, "path"), error = function(e) "")
    if (nzchar(path)) dirname(path) else ""
  })
}

# Set what the other end knows of this place, as far as it is not so already.
set_surroundings <- function(wanted) {
  now <- surroundings_now()
  for (item in union(names(now), names(wanted))) {
    text <- wanted[[item]]
    if (!identical(text, now[[item]])) try(suppressMessages(suppressWarnings(set_item(item, text))), silent = TRUE)
  }
  note_loaded()
}

# Namespaces that a chunk has left, or that are had where we stand: what is missing later was unloaded on the way.
note_loaded <- function() S$stood <- setdiff(loadedNamespaces(), S$first$namespaces)

set_item <- function(item, text) {
  if (startsWith(item, "env:")) return(set_variable(substring(item, 5L), text))
  value <- if (is.null(text)) S$first[[item]] else from_text(sub("^live", "", text))
  switch(item,
    options = set_options(value, is.null(text)),
    packages = attach_packages(if (is.null(text)) list() else value),
    folder = setwd(value),
    locale = for (one in strsplit(value, ";", fixed = TRUE)[[1L]]) set_locale(one),
    rng = RNGkind(value[1L], value[2L], value[3L]),
    libraries = .libPaths(value),
    umask = Sys.umask(value),
    palette = grDevices::palette(value),
    theme = if (isNamespaceLoaded("ggplot2")) ggplot2::theme_set(if (is.null(text)) usual_theme() else value)
  )
}

set_options <- function(value, back) {
  first <- S$first$options
  now <- options()
  if (!back) {
    for (name in names(value)) if (is.null(value[[name]])) value[name] <- list(NULL)
    options(value)
  }
  for (name in setdiff(names(differing_options(now[setdiff(names(now), not_ours)], first)), if (back) character() else names(value))) {
    if (!name %in% S$from_packages) options(stats::setNames(list(first[[name]]), name))
  }
}

set_variable <- function(name, text) {
  if (is.null(text)) {
    before <- unname(S$first$variables[name])
    text <- if (is.na(before)) "gone" else paste0("=", before)
  }
  if (identical(text, "gone")) Sys.unsetenv(name)
  else do.call(Sys.setenv, stats::setNames(list(substring(text, 2L)), name))
}

set_locale <- function(part) {
  sides <- strsplit(part, "=", fixed = TRUE)[[1L]]
  if (length(sides) == 2L && sides[1L] %in% c("LC_COLLATE", "LC_CTYPE", "LC_MONETARY", "LC_NUMERIC", "LC_TIME")) Sys.setlocale(sides[1L], sides[2L])
}

# Have those packages attached, in that order, and no others: what code finds by a name hangs on it.
attach_packages <- function(wanted) {
  for (name in setdiff(S$stood, names(wanted$loaded))) try(unloadNamespace(name), silent = TRUE)    # a chunk on the way to here did so
  for (name in names(wanted$loaded)) if (!isNamespaceLoaded(name)) load_package(name, wanted$loaded[[name]])
  want <- names(wanted$attached)
  have <- sub("^package:", "", setdiff_in_order(search(), S$first$search))
  most <- min(length(want), length(have))
  same <- sum(cumprod(rev(utils::tail(want, most)) == rev(utils::tail(have, most))))    # the oldest stand last
  for (name in utils::head(have, length(have) - same)) detach(pos = match(name, sub("^package:", "", search())), character.only = TRUE)
  for (name in rev(utils::head(want, length(want) - same))) {
    if (nzchar(wanted$attached[[name]])) library(name, character.only = TRUE, lib.loc = c(wanted$attached[[name]], .libPaths()), warn.conflicts = FALSE)
  }
  for (entry in wanted$detached) if (entry %in% search()) detach(entry, character.only = TRUE)
}

load_package <- function(name, folder) loadNamespace(name, lib.loc = c(folder, .libPaths()))

# Packages that are loaded, with their folders and versions, but those that come with R itself.
packages_used <- function() {
  found <- setdiff(loadedNamespaces(), S$first$namespaces)
  paths <- vapply(c("base", found), function(name) system.file(package = name), "")
  as.list(unname(paths[order(names(paths), method = "radix")]))
}
