# What the chunk that runs has asked for beside names: noted by functions of R that are wrapped.

begin_looks <- function() {
  S$pid <- Sys.getpid()
  if (is.null(S$relay)) S$relay <- tempfile("worn-")   # processes that are forked off note there what they ask for
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
  if (is_forked()) relay(kind, full) else S$looks <- c(S$looks, lapply(full, function(path) list(kind = kind, path = path)))
}

note_variables <- function(names) if (is_forked()) relay("variable", names) else S$env_reads <- c(S$env_reads, names)

is_forked <- function() Sys.getpid() != S$pid

relay <- function(kind, what) if (length(what)) cat(paste(kind, what, sep = "\t"), sep = "\n", file = S$relay, append = TRUE)

# What forked processes have noted, as if it had been done here.
take_relayed <- function() {
  if (!file.exists(S$relay)) return(invisible())
  told <- readLines(S$relay, warn = FALSE)
  unlink(S$relay)
  kinds <- sub("\t.*", "", told)
  what <- sub("^[^\t]*\t", "", told)
  note_variables(what[kinds == "variable"])
  for (kind in unique(setdiff(kinds, "variable"))) note_paths(kind, what[kinds == kind])
}

note_effect <- function(words) S$effects <- c(S$effects, words)
