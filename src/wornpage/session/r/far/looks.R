# What the chunk that runs has asked for beside names: noted by functions of R that are wrapped.

begin_looks <- function() {
  S$looks <- list()          # paths, by what was asked of them
  S$env_reads <- character() # variables of the environment
  S$given_reads <- character()
  S$effects <- character()
  S$programs <- character()
  S$spawned <- FALSE
  S$network <- FALSE
}

note_paths <- function(kind, paths) {
  paths <- path.expand(as.character(paths))
  here <- getwd()
  bare <- paths[!is.na(paths) & nzchar(paths) & !grepl("^[a-z]+://", paths) & !paths %in% c("stdin", "clipboard")]
  full <- ifelse(startsWith(bare, "/"), bare, file.path(here, bare))
  S$looks <- c(S$looks, lapply(full, function(path) list(kind = kind, path = path)))
}

note_effect <- function(words) S$effects <- c(S$effects, words)
