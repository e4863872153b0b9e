# Run a chunk, expression by expression, as R does what is typed, and tell what came of it.

run_chunk <- function(message) {
  stand(message)
  S$shares <- S$shares %||% list()
  S$statements <- list()
  S$asked_sources <- NULL
  begin_errors(message$label, message$code)
  begin_looks()
  before <- surroundings_now()
  internals <- definitions()
  connections <- open_connections()
  S$before <- list(exits = S$exits, last = has_last())
  look_at_spaces()
  set.seed(message$seed)
  seed <- get0(".Random.seed", envir = G, inherits = FALSE)
  start_drawing(message$options)
  begun <- proc.time()[[3L]]
  take_over(message$handed)
  compile(TRUE)
  failure <- evaluate(message$code, message$label, message$binds)
  compile(FALSE)
  seconds <- proc.time()[[3L]] - begun
  S$on <- FALSE
  failure <- tryCatch({ end_drawing(); failure }, error = function(e) failure %||% described("Error", plain_words(conditionMessage(e)), list(frame_at(S$label, 0L))))
  while (sink.number() > 0L) sink()
  if (sink.number(type = "message") != 2L) sink(type = "message")
  drew <- !identical(seed, get0(".Random.seed", envir = G, inherits = FALSE))
  found <- account(!is.null(failure))
  definitions_left(internals)
  if (nzchar(changed <- changed_space())) note_effect(paste("it changed what the package", changed, "keeps"))
  if (open_connections() > connections) note_effect("it left a connection open")
  finish(message, failure, found, before, drew, seconds)
}

# Whether functions are compiled when they have been called a few times: ours are not worth it.
compile <- function(wanted) invisible(compiler::enableJIT(if (wanted) S$compiles else 0L))

finish <- function(message, failure, found, before, drew, seconds) {
  take_relayed()
  note_loaded()
  after <- surroundings_now()
  now <- unlist(found$now)
  masking <- masks(now)
  after$masks <- if (length(masking)) paste(masking, collapse = "\n")
  before$masks <- message$ambient$masks
  changed <- after[vapply(names(after), function(item) !identical(after[[item]], before[[item]]), NA)]
  for (item in setdiff(names(before), names(after))) changed[[item]] <- ""
  if (any(startsWith(as.character(unlist(changed)), "live"))) note_effect("it set options that hold functions")
  if (length(setdiff(search(), c(S$first$search, paste0("package:", loadedNamespaces()))))) note_effect("it attached a list")
  send(list(
    event = "done", error = failure, seconds = seconds, needs = "", writing = FALSE, left = is_left(), leaves = S$exits > S$before$exits || has_last() && !S$before$last,
    found = c(found, list(ambient = as.list(changed), effects = paste(unique(S$effects), collapse = "; "), seed = drew, spawned = S$spawned, network = S$network,
      given = as.list(unique(S$given_reads)), variables = variables_read(), programs = as.list(unique(S$programs)), looks = S$looks, packages = packages_used(), folder = getwd())),
    after = mark()
  ))
}

# Variables of the environment that code has asked for, as they were.
variables_read <- function() {
  names <- unique(c("TZ", S$env_reads)) # the time zone shows in every time
  values <- Sys.getenv(names, unset = NA, names = FALSE)
  stats::setNames(as.list(ifelse(is.na(values), "gone", paste0("=", values))), names)
}

# Run code from its first expression to its last; gives what went wrong, or NULL.
evaluate <- function(code, label, binds) {
  parsed <- tryCatch(parse(text = code, keep.source = FALSE, encoding = "UTF-8"), error = function(e) e)
  if (inherits(parsed, "error")) return(syntax_failure(parsed))
  value <- NULL
  for (place in seq_along(parsed)) {
    made <- step(parsed[[place]], place, shows = !nzchar(binds))
    if (!is.null(made$failure)) return(made$failure)
    value <- made$value
  }
  if (nzchar(binds)) show_items(value, label, binds)
  NULL
}

# One expression: what it gives is shown, unless R would not print it.
step <- function(code, place, shows) {
  failure <- NULL
  result <- NULL
  ours <- sys.nframe()
  S$warned <- NULL
  S$on <- TRUE
  S$running <- TRUE
  on.exit(S$running <- FALSE)
  tryCatch(
    withCallingHandlers({
      made <- withVisible(eval(code, G))
      result <- list(made$value)
      if (made$visible && shows && !closes_device(code)) show_value(made$value)
    },
    warning = function(w) take_warning(w),
    message = function(m) take_message(m),
    error = function(e) {
      S$on <- FALSE
      failure <<- describe_error(e, sys.calls(), ours, place)
    }),
    error = function(e) if (is.null(failure)) failure <<- describe_error(e, list(), 0L, place),
    interrupt = function(i) failure <<- described("interrupt", "", list(frame_at(S$label, line_of(place))))
  )
  S$on <- FALSE
  list(failure = failure, value = if (is.null(result)) NULL else result[[1L]])
}

# Whether a call ends a device of the page's own: what it gives says which is next, of which some are ours.
closes_device <- function(code) is.call(code) && paste(deparse(code[[1L]]), collapse = "") %in% c("dev.off", "grDevices::dev.off")

take_warning <- function(w) {
  if (isTRUE(getOption("warn") >= 2)) return()
  S$warned <- conditionMessage(w)
  if (!isTRUE(getOption("warn") < 0)) {
    call <- conditionCall(w)
    from <- if (is.call(call) && is.symbol(call[[1L]]) && !as.character(call[[1L]]) %in% c("eval", "withVisible")) paste0(" in ", as.character(call[[1L]]), "()") else ""
    notice(paste0("Warning", from, ": ", conditionMessage(w)))
  }
  if (!is.null(findRestart("muffleWarning"))) invokeRestart("muffleWarning")
}

# What packages say when they are attached is about them, and not about the page.
take_message <- function(m) {
  if (!inherits(m, "packageStartupMessage")) notice(sub("\n$", "", conditionMessage(m)))
  if (!is.null(findRestart("muffleMessage"))) invokeRestart("muffleMessage")
}

# What an insert stands for: every item of a list gets a hidden name, or the file is told with the values it hangs on.
show_items <- function(value, label, binds) {
  if (binds != "each") {
    items <- list(list(name = paste(vapply(value[[2L]], item_words, ""), collapse = " "), file = value[[1L]] %||% ""))
    return(show(list(kind = "items", items = items)))
  }
  if (length(value) > 5000L) stop("a file is repeated 5,000 times at most")
  stem <- paste0(".", gsub("[^[:alnum:]]", "_", label))
  if (is.data.frame(value)) value <- lapply(seq_len(nrow(value)), function(row) as.list(value[row, , drop = FALSE]))
  items <- lapply(seq_along(value), function(place) {
    hidden <- paste0(stem, "_", place)
    assign(hidden, value[[place]], envir = G)
    words <- item_words(value[[place]])
    list(name = if (nzchar(words)) words else as.character(place), hidden = hidden)
  })
  show(list(kind = "items", items = items))
}

item_words <- function(item) {
  for (round in 1:3) if (is.list(item) && length(item)) item <- item[[1L]]
  if (is.atomic(item) && length(item)) enc2utf8(as.character(if (is.factor(item)) as.character(item) else format(item[1L], trim = TRUE))) else ""
}
