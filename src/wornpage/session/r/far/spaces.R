# What packages keep within themselves: environments that lie in their namespaces, such as tables of usual looks.
#
# Whoever changes one has done what only running the chunk again does. What such an environment holds is compared object by
# object, as it was when the package had been loaded, and before each chunk.

begin_spaces <- function() {
  S$spaces <- list()
  S$places <- list()    # by package: the names of what it keeps
}

# Packages whose own memory is looked after: all that R itself does not begin with.
watched_spaces <- function() setdiff(loadedNamespaces(), c(S$first$namespaces, quiet_spaces))

# These remember what they were asked, and say the same whether they do or not.
quiet_spaces <- c("rlang", "vctrs", "cli", "pillar", "utf8", "fansi", "lifecycle", "glue", "R6", "tidyselect", "generics", "withr", "isoband", "digest")

# What packages remember of the call before: each chunk begins without it.
begun_anew <- list(data.table = list(place = ".global", name = "print", value = ""))

look_at_spaces <- function() {
  for (package in intersect(names(begun_anew), loadedNamespaces())) {
    one <- begun_anew[[package]]
    held <- get0(one$place, envir = asNamespace(package), inherits = FALSE)
    if (is.environment(held) && exists(one$name, envir = held, inherits = FALSE)) assign(one$name, one$value, envir = held)
  }
  now <- watched_spaces()
  S$spaces <- stats::setNames(lapply(now, look_at_space), now)
}

look_at_space <- function(name) {
  space <- asNamespace(name)
  if (is.null(S$places[[name]])) S$places[[name]] <- places_in(space)
  lapply(stats::setNames(S$places[[name]], S$places[[name]]), function(one) as.list.environment(get(one, envir = space, inherits = FALSE), all.names = TRUE))
}

# Names of a package that stand for environments. Names cannot be added to it once it is loaded.
places_in <- function(space) {
  names <- setdiff(ls(space, all.names = TRUE, sorted = FALSE), too_large(space))
  names <- names[!startsWith(names, ".__") & !names %in% c(".packageName", ".libPath") & !grepl(only_remembers, names, ignore.case = TRUE)]
  names[vapply(names, function(one) {
    if (bindingIsActive(as.symbol(one), space)) return(FALSE)
    value <- get0(one, envir = space, inherits = FALSE)
    is.environment(value) && !isNamespace(value)
  }, NA)]
}

# What takes more room in the package's file than an environment, which lies there as a reference to another place.
# To ask for each name would read the whole package: a second for some.
too_large <- function(space) {
  index <- paste0(getNamespaceInfo(space, "path"), "/R/", getNamespaceName(space), ".rdx")
  if (!file.exists(index)) return(character())
  sizes <- vapply(readRDS(index)$variables, `[[`, 0L, 2L)
  names(sizes)[sizes > 200L]
}

# The first package that has been changed since, or nothing.
changed_space <- function() {
  for (name in intersect(names(S$spaces), loadedNamespaces())) {
    before <- S$spaces[[name]]
    space <- asNamespace(name)
    for (one in names(before)) {
      held <- get0(one, envir = space, inherits = FALSE)
      if (!is.environment(held)) return(name)
      if (!holds_the_same(before[[one]], as.list.environment(held, all.names = TRUE), begun_anew[[name]]$name)) return(name)
    }
  }
  ""
}

# Carried as settings, or begun anew with each chunk, or filled by looking alone.
carried_elsewhere <- c("theme_current", "theme_default", "last_plot", "lattice.status", "lattice.theme")
only_remembers <- "cache|context|memo"

holds_the_same <- function(before, now, besides) {
  if (!setequal(names(before), names(now))) return(FALSE)
  for (name in setdiff(names(before), c(carried_elsewhere, besides))) {
    if (!is_same(before[[name]], now[[name]]) && !is.function(now[[name]]) && !is.environment(now[[name]]) && !identical(before[[name]], now[[name]])) return(FALSE)
  }
  TRUE
}
