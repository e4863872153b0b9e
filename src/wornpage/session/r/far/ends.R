# How the two ends talk: a length, a list in R's own serialization, and the bytes that the list announces.

S <- new.env(parent = emptyenv())
# What this session knows: its ends, the names of the page, what the chunk that runs has done so far.
G <- globalenv()

open_ends <- function(ask, tell, fault, sentinel) {
  S$paths <- c(ask = paste0("/proc/self/fd/", ask), tell = paste0("/proc/self/fd/", tell), fault = paste0("/proc/self/fd/", fault),
               out = "/proc/self/fd/1", err = "/proc/self/fd/2")
  digits <- substring(sentinel, seq(1L, nchar(sentinel), 2L), seq(2L, nchar(sentinel), 2L))
  S$sentinel <- as.raw(strtoi(digits, 16L))
  S$marks <- 0L
  S$compiles <- compiler::enableJIT(0L)
  S$on <- FALSE
  S$exits <- 0L               # how many finalizers are to be called at the end
  S$running <- FALSE          # whether code of the page runs, whose errors are its own
}

# A connection to one of our pipes; opened anew if a chunk has closed all there were.
end_of <- function(name) {
  key <- paste0("end_", name)
  con <- S[[key]]
  if (is.null(con) || !is_still(con, S$paths[[name]])) {
    con <- file(S$paths[[name]], if (name == "ask") "rb" else "wb", raw = TRUE)
    assign(key, con, envir = S)
  }
  con
}

# Whether a connection is the one it was: numbers are given anew once a chunk has closed all.
is_still <- function(con, path) tryCatch(isOpen(con) && identical(summary(con)$description, path), error = function(e) FALSE)

# How many connections are ours: any others that are open were left open by the page.
count_ours <- function() sum(vapply(c("ask", "tell", "out", "err"), function(name) !is.null(S[[paste0("end_", name)]]), NA))

as_bytes <- function(value, refhook = NULL)
  suppressWarnings(serialize(value, NULL, xdr = FALSE, version = 2L, refhook = refhook))

send <- function(message, bytes = list()) {
  message$sizes <- lapply(bytes, function(one) as.double(length(one)))
  head <- as_bytes(message)
  con <- end_of("tell")
  writeBin(length(head), con, endian = "little")
  put(head, con)
  for (one in bytes) put(one, con)
  flush(con)
}

put <- function(bytes, con) {
  most <- 2^30
  if (length(bytes) <= most) return(writeBin(bytes, con))
  for (start in seq(1, length(bytes), most)) writeBin(bytes[start:min(length(bytes), start + most - 1)], con)
}

receive <- function() unserialize(end_of("ask"))

# Tell something that the other end answers; its own words for what is wrong are an error of the code that called.
ask <- function(message) {
  send(message)
  answer <- receive()
  if (!is.null(answer$error)) stop(answer$error, call. = FALSE)
  answer
}

# End a stretch of what is printed; gives the number of the stretch.
mark <- function() {
  if (sink.number() == 0L) flush(stdout())
  for (name in c("out", "err")) {
    con <- end_of(name)
    writeBin(S$sentinel, con)
    flush(con)
  }
  S$marks <- S$marks + 1L
}

# Tell of something that the chunk shows, at its place among what it prints.
show <- function(item, bytes = list()) {
  after <- mark()
  send(list(event = "shown", item = item, after = after), bytes)
}

answer_until_the_end <- function() {
  repeat {
    message <- tryCatch(receive(), error = function(e) NULL)
    if (is.null(message)) break
    if (identical(message$do, "end")) return(go_to_the_end(message))
    withCallingHandlers(
      switch(message$do, open = open_session(message), run = run_chunk(message), marks = answer_marks(message),
             together = tell_together(message), give = give_value(message), hold = { stand(message); send(list(event = "held")) }),
      error = function(e) if (!S$running) leave_words(e, sys.calls()))
  }
}

# Stand at the end of the page: R itself does what is left as it leaves, which asks for names as code does.
go_to_the_end <- function(message) {
  stand(message)
  if (has_last()) assign(".Last", get(".Last", G, inherits = FALSE), envir = G)   # R looks for a function, and not for the promise of one
  invisible()
}

# A fault of ours: what it was, where the other end finds it.
leave_words <- function(error, calls) {
  lines <- vapply(utils::tail(calls, 12L), function(call) substr(paste(deparse(call), collapse = " "), 1L, 200L), "")
  con <- file(S$paths[["fault"]], "ab", raw = TRUE)
  writeBin(charToRaw(enc2utf8(paste0("a fault of the session:\n", paste(lines, collapse = "\n"), "\n", conditionMessage(error), "\n"))), con)
  close(con)
}

open_session <- function(message) {
  for (name in c("tell", "out", "err")) end_of(name)    # before any chunk, which would seem to have opened them
  setwd(message$folder)
  S$first <- list()
  begin_names()
  begin_spaces()
  offer_page(message$given)
  wrap_base()
  begin_figures()
  if (identical(message$look, "page")) wear_page_look()
  S$first <- surroundings_whole()
  end_of("ask")
  S$connections <- open_connections()
  send(list(event = "ready"))
}
