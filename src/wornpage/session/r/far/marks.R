# Value marks: each is asked at its place, and only looks.

answer_marks <- function(message) {
  stand(message)
  begin_errors("", "")
  S$shares <- S$shares %||% list()
  answers <- lapply(message$marks, function(one) answer_one(one, message))
  send(list(event = "answers", answers = answers, needs = "", after = mark()))
}

answer_one <- function(asked, message) {
  S$statements <- list()
  hide()
  begin_looks()
  before <- surroundings_now()
  set.seed(asked$seed)
  seed <- get0(".Random.seed", envir = G, inherits = FALSE)
  start_drawing(list(width = 0, height = 0, dpi = 200L))
  failure <- NULL
  S$label <- asked$place
  S$sources <- stats::setNames(list(asked$expression), asked$place)
  S$on <- TRUE
  S$running <- TRUE
  answer <- tryCatch(
    withCallingHandlers(scalar(evaluate_mark(asked$expression, G), asked$format),
                        warning = function(w) if (!is.null(findRestart("muffleWarning"))) invokeRestart("muffleWarning"),
                        message = function(m) if (!is.null(findRestart("muffleMessage"))) invokeRestart("muffleMessage")),
    error = function(e) {
      S$on <- FALSE
      missing <- missing_in(plain_words(conditionMessage(e)), e)
      failure <<- described("Error", plain_words(conditionMessage(e)), list(frame_at(asked$place, 1L)), name = missing$name, missing = missing$kind, hint = hint_for(missing))
      NULL
    })
  S$on <- FALSE
  S$running <- FALSE
  S$drawing <- FALSE
  grDevices::graphics.off()
  unlink(S$folder, recursive = TRUE)
  take_relayed()
  drew <- !identical(seed, get0(".Random.seed", envir = G, inherits = FALSE))
  found <- account(FALSE)
  after <- surroundings_now()
  items <- union(names(before), names(after))
  changed <- items[!vapply(items, function(item) identical(before[[item]], after[[item]]), NA)]
  changed <- setdiff(changed, "packages")
  if (length(changed)) set_surroundings(message$ambient)
  list(answer = answer, error = failure,
       found = c(found, list(seed = drew, spawned = S$spawned, network = S$network, given = as.list(unique(S$given_reads)),
         variables = variables_read(), looks = S$looks, packages = packages_used(), folder = getwd(),
         changed = if (length(changed)) "a setting of R or of a package" else if (length(S$effects)) S$effects[1L] else "")))
}
