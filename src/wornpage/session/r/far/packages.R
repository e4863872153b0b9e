# What installed packages offer, as their files tell it: nothing of them is loaded.

favourites <- c("ggplot2", "dplyr", "tidyr", "readr", "purrr", "tibble", "stringr", "data.table", "magrittr", "lubridate", "forcats", "MASS", "lattice", "survival", "nlme", "mgcv", "Matrix")

offers <- new.env(parent = emptyenv())    # by folder, once they have been read

# The names that the package in a folder gives to those who attach it.
exported <- function(folder) {
  if (is.null(offers[[folder]])) assign(folder, read_exports(folder), envir = offers)
  offers[[folder]]
}

read_exports <- function(folder) {
  info <- tryCatch(readRDS(file.path(folder, "Meta", "nsInfo.rds")), error = function(e) NULL, warning = function(w) NULL)
  if (is.null(info)) return(character())    # no package
  index <- file.path(folder, "R", paste0(basename(folder), ".rdx"))
  all <- if (length(info$exportPatterns) && file.exists(index)) names(readRDS(index)$variables) else character()
  matched <- unlist(lapply(info$exportPatterns, function(one) tryCatch(grep(one, all, value = TRUE), error = function(e) character())))
  unique(c(info$exports, unlist(info$exportMethods), matched))
}

# Installed packages that have something of that name to offer; the best known first.
packages_with <- function(name) {
  folders <- list.files(.libPaths(), full.names = TRUE)
  found <- unique(basename(folders[vapply(folders, function(one) name %in% exported(one), NA)]))
  c(intersect(favourites, found), setdiff(found, favourites))
}
