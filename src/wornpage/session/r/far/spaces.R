# What packages keep within themselves: environments that lie in their namespaces, such as tables of usual looks.
#
# Whoever changes one has done what only running the chunk again does. What such an environment holds is compared object by
# object, as it was when the package had been loaded, and before each chunk.

begin_spaces <- function() S$spaces <- list()

# Packages whose own memory is looked after: all that R itself does not begin with.
watched_spaces <- function() setdiff(loadedNamespaces(), c(S$first$namespaces, quiet_spaces))

# These remember what they were asked, and say the same whether they do or not.
quiet_spaces <- c("rlang", "vctrs", "cli", "pillar", "utf8", "fansi", "lifecycle", "glue", "R6", "tidyselect", "generics", "withr", "isoband", "digest")

look_at_spaces <- function() {
  now <- watched_spaces()
  S$spaces <- stats::setNames(lapply(now, look_at_space), now)
}

look_at_space <- function(name) {
  space <- asNamespace(name)
  names <- ls(space, all.names = TRUE, sorted = FALSE)
  names <- names[!startsWith(names, ".__") & !names %in% c(".packageName", ".libPath")]
  made <- list()
  for (one in names) {
    value <- if (bindingIsActive(as.symbol(one), space)) NULL else get0(one, envir = space, inherits = FALSE)
    if (is.environment(value) && !isNamespace(value) && !grepl(only_remembers, one, ignore.case = TRUE)) made[[one]] <- as.list.environment(value, all.names = TRUE)
  }
  made
}

# The first package that has been changed since, or nothing.
changed_space <- function() {
  for (name in intersect(names(S$spaces), loadedNamespaces())) {
    before <- S$spaces[[name]]
    space <- asNamespace(name)
    for (one in names(before)) {
      held <- get0(one, envir = space, inherits = FALSE)
      if (!is.environment(held)) return(name)
      if (!holds_the_same(before[[one]], as.list.environment(held, all.names = TRUE))) return(name)
    }
  }
  ""
}

# Carried as settings, or begun anew with each chunk, or filled by looking alone.
carried_elsewhere <- c("theme_current", "theme_default", "last_plot", "lattice.status", "lattice.theme")
only_remembers <- "cache|context|memo"

holds_the_same <- function(before, now) {
  if (!setequal(names(before), names(now))) return(FALSE)
  for (name in setdiff(names(before), carried_elsewhere)) {
    if (!is_same(before[[name]], now[[name]]) && !is.function(now[[name]]) && !is.environment(now[[name]]) && !identical(before[[name]], now[[name]])) return(FALSE)
  }
  TRUE
}
