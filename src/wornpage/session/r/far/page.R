# `page` and `given`: what the code in a page's chunks may call and ask for, beside showing values.

offer_page <- function(given) {
  S$given <- lapply(given, function(value) if (is.list(value) && is.null(names(value))) unlist(value) else value)
  place <- new.env(parent = emptyenv())
  assign("page", page_object(), envir = place)
  assign("given", structure(list(), class = "worn_given"), envir = place)
  base::attach(place, name = "worn", warn.conflicts = FALSE)
  for (name in c("$", "[[")) registerS3method(name, "worn_given", function(x, i) given_value(as.character(i)), envir = baseenv())
  registerS3method("names", "worn_given", function(x) { S$given_reads <- c(S$given_reads, names(S$given)); names(S$given) }, envir = baseenv())
  registerS3method("print", "worn_given", function(x, ...) { S$given_reads <- c(S$given_reads, names(S$given)); print(S$given) }, envir = baseenv())
  for (name in c("$<-", "[[<-")) {
    registerS3method(name, "worn_given", function(x, i, value) stop("given values come from outside the page, and cannot be assigned", call. = FALSE), envir = baseenv())
  }
  registerS3method("print", "worn_page", function(x, ...) cat("page: ", paste0("page$", names(unclass(x)), "()", collapse = ", "), "\n", sep = ""), envir = baseenv())
}

given_value <- function(name) {
  S$given_reads <- c(S$given_reads, name)
  if (!name %in% names(S$given)) {
    known <- paste(sort(names(S$given)), collapse = ", ")
    stop(sprintf("this page has no given value '%s'; there are: %s", name, if (nzchar(known)) known else "none"), call. = FALSE)
  }
  S$given[[name]]
}

page_object <- function() structure(class = "worn_page", list(
  table = function(frame, caption = "", label = "", decimals = NULL, heads = NULL, spans = NULL, align = NULL, forms = NULL,
                   units = NULL, intervals = NULL, groups = NULL, notes = NULL, whole = FALSE, cell = "") {
    scope <- parent.frame()
    if (whole || nzchar(cell)) { S$rows_held <- 1048000L; on.exit(S$rows_held <- NULL) }
    quiet({
      check_place(cell)
      table <- as_table(frame)
      if (is.null(table)) table <- as_table(tryCatch(as.data.frame(frame), error = function(e) stop("page$table wants a data frame, a matrix or columns: ", conditionMessage(e), call. = FALSE)))
      looks <- list(decimals = decimals, heads = heads, spans = spans, align = align, forms = forms, units = units, intervals = intervals, groups = groups, notes = notes)
      show_table(list(table = table, looks = as_wire(looks), words = all_told(scope, caption, heads, names(spans), notes), caption = caption, label = label, cell = cell))
    })
  },
  # A value for a cell of an office's workbook; readers of the page see nothing of it.
  cell = function(place, value, form = "") {
    quiet({
      check_place(place)
      held <- scalar(value)
      show(list(kind = "cell", place = as.character(place), form = as.character(form), type = held$type, value = held$value))
    })
  },
  summary = function(frame, caption = "", label = "", columns = NULL, by = NULL, decimals = NULL, heads = NULL, notes = NULL) {
    scope <- parent.frame()
    quiet(show_table(list(table = summarised(frame, columns, by), looks = as_wire(list(decimals = decimals, heads = heads, notes = notes)),
                          words = all_told(scope, caption, heads, notes), caption = caption, label = label)))
  },
  crosstab = function(frame, rows, columns, caption = "", label = "", shares = "", totals = TRUE, decimals = NULL, notes = NULL) {
    scope <- parent.frame()
    quiet(show_table(list(table = crossed(frame, rows, columns, shares, totals), looks = as_wire(list(decimals = decimals, notes = notes)),
                          words = all_told(scope, caption, notes), caption = caption, label = label)))
  },
  model = function(..., caption = "", label = "", names = NULL, terms = NULL, leave_out = NULL, interval = NULL, stars = FALSE,
                   decimals = 3, notes = NULL) {
    scope <- parent.frame()
    fits <- list(...)
    quiet({
      read <- lapply(fits, function(fit) {
        made <- read_fit(fit, interval)
        if (is.null(made)) stop(sprintf("page$model cannot read a %s: it has no table of coefficients, and is no test", class(fit)[1L]), call. = FALSE)
        made
      })
      remarks <- unlist(lapply(read, `[[`, "remark"))
      send_fits(list(fits = read, remarks = as.list(remarks), caption = caption, label = label, words = all_told(scope, caption, names, terms, notes),
                     looks = as_wire(list(names = if (is.null(names)) NULL else as.list(names), terms = terms, leave_out = as.list(leave_out), interval = interval, stars = stars, decimals = decimals, notes = notes))))
    })
  },
  figure = function(plot = NULL, caption = "", label = "", alt = "") {
    scope <- parent.frame()
    if (is.function(plot)) plot()
    else if (inherits(plot, "recordedplot")) grDevices::replayPlot(plot)
    else if (!is.null(plot)) print_value(plot)
    quiet({
      if (is.null(S$current)) stop("page$figure wants a plot, and nothing has been drawn", call. = FALSE)
      S$current$words <- list(caption = if (nzchar(caption)) told(caption, scope), label = label)
      wanted <- alt
      end_page()
      if (nzchar(wanted)) S$shots[[length(S$shots)]]$alt <- wanted
      if (is_our_device()) grDevices::dev.off()
    })
  },
  prose = function(text) {
    scope <- parent.frame()
    quiet(show(list(kind = "prose", told = told(text, scope))))
  },
  heading = function(text, level = 2, label = "") {
    scope <- parent.frame()
    quiet({
      if (!is.numeric(level) || !level %in% 1:6) stop(sprintf("a heading's level lies from 1 to 6, and this is %s", format(level)), call. = FALSE)
      show(list(kind = "heading", told = told(text, scope), level = as.integer(level), label = as.character(label)))
    })
  },
  # Go through items and show in the terminal how far it has come; `each` is called with every item, and what it gives is given back.
  tally = function(items, name = "", each = NULL) {
    if (is.null(each)) return(items)
    total <- length(items)
    last <- -Inf
    made <- vector("list", total)
    for (done in seq_along(items)) {
      now <- proc.time()[[3L]]
      if (now - last > 0.1) {
        last <- now
        send(list(event = "tally", name = name, done = done - 1L, total = total))
      }
      value <- each(items[[done]])
      if (!is.null(value)) made[[done]] <- value
    }
    made
  }
))

check_place <- function(place) {
  if (nzchar(place) && !grepl("^(('.+'|[^'!]+)!)?[$]?[A-Za-z]{1,3}[$]?[1-9][0-9]*$|^[[:alpha:]_][[:alnum:]_.]*$", place)) {
    stop(sprintf("'%s' is no place in a workbook: write `Results!B3`, or a name that it has", place), call. = FALSE)
  }
}

# Do something of ours: what it asks of files and the like is no doing of the page's.
quiet <- function(code) {
  was_on <- S$on
  S$on <- FALSE
  on.exit(S$on <- was_on)
  force(code)
  invisible()
}

# Looks as the other end reads them: by name where they have names, else in order.
as_wire <- function(looks) lapply(looks, function(one) if (!is.null(names(one)) || length(one) > 1L && !is.list(one)) as.list(one) else one)
