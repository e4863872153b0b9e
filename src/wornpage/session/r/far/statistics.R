# `page$summary` and `page$crosstab`: what columns hold, in numbers, as tables.

summary_words <- c("n", "missing", "mean", "sd", "least", "median", "most")

summarised <- function(frame, columns, by) {
  frame <- as.data.frame(frame, stringsAsFactors = FALSE)
  for (name in c(columns, by)) known_column(frame, name)
  chosen <- if (is.null(columns)) setdiff(names(frame), by) else as.character(columns)
  numbers <- chosen[vapply(frame[chosen], is_number, NA)]
  others <- setdiff(chosen, numbers)
  if (is.null(columns)) others <- others[vapply(frame[others], is_category, NA)]
  if (!is.null(by)) return(by_group(frame, numbers, others, by))
  if (length(numbers)) moments_table(frame, numbers, others) else shares_table(frame, others)
}

is_number <- function(column) is.numeric(column) && !is.factor(column) && !inherits(column, c("Date", "POSIXct", "difftime"))
is_category <- function(column) !inherits(column, c("Date", "POSIXct", "POSIXlt")) && is.atomic(column) && length(unique(column)) <= 12L

known_column <- function(frame, name) {
  if (name %in% names(frame)) return(invisible())
  near <- names(frame)[utils::adist(name, names(frame), ignore.case = TRUE) <= max(1, nchar(name) %/% 3)]
  hint <- if (length(near)) paste("did you mean", paste0("'", near, "'", collapse = " or ")) else paste("there are:", paste0("'", names(frame), "'", collapse = ", "))
  stop(sprintf("this frame has no column '%s'; %s", name, if (length(near)) paste0(hint, "?") else hint), call. = FALSE)
}

number_column <- function(head, cells, name = head) list(heads = list(head), name = if (is.list(name)) name$word else name, kind = "number", cells = cells, is_index = FALSE)
word <- function(name) list(word = name)

# Decimals at which a standard deviation shows two digits that count.
places_for <- function(spread, mean) {
  size <- if (is.finite(spread) && spread != 0) spread else abs(mean)
  if (!length(size) || !is.finite(size) || size == 0) 0L else as.integer(max(0, min(6, 1 - floor(log10(size)))))
}

moments_table <- function(frame, numbers, others) {
  rows <- lapply(frame[numbers], function(column) {
    held <- as.double(column[!is.na(column)])
    c(length(held), length(column) - length(held), if (length(held)) c(mean(held), stats::sd(held), min(held), stats::median(held), max(held)) else rep(NA, 5L))
  })
  columns <- list(index_column("", numbers))
  for (place in seq_along(summary_words)) {
    cells <- lapply(rows, function(row) {
      value <- row[place]
      if (place <= 2L) return(as.integer(value))
      if (is.na(value)) NULL else list(content = value, decimals = places_for(row[4L], row[3L]))
    })
    if (summary_words[place] == "missing" && !any(unlist(cells) > 0L)) next
    columns <- c(columns, list(number_column(word(summary_words[place]), unname(cells))))
  }
  if (length(others)) columns <- append(columns, list(number_column(word("share"), rep(list(list(content = "")), length(numbers)))), 2L)
  with_levels(list(columns = columns, left_out = 0L), frame, others)
}

shares_table <- function(frame, others) {
  columns <- list(index_column("", character()), number_column(word("n"), list()), number_column(word("share"), list()))
  with_levels(list(columns = columns, left_out = 0L), frame, others)
}

# For each column of words a group of rows: how often each value is there, and which share that is.
with_levels <- function(table, frame, others) {
  for (name in others) {
    column <- frame[[name]]
    counts <- level_counts(column)
    table$groups <- c(table$groups, list(list(row = length(table$columns[[1L]]$cells), words = name)))
    for (at in seq_along(counts)) {
      share <- list(content = sprintf("%.0f\u202f%%", 100 * counts[[at]] / length(column)))
      row <- c(list(names(counts)[at], as.integer(counts[[at]]), share), rep(list(list(content = "")), length(table$columns)))
      for (place in seq_along(table$columns)) table$columns[[place]]$cells <- c(table$columns[[place]]$cells, row[place])
    }
  }
  table
}

level_counts <- function(column) {
  counts <- table(as.character(column), useNA = "ifany")
  names(counts)[is.na(names(counts))] <- "\u2013"
  first <- unique(ifelse(is.na(column), "\u2013", as.character(column)))
  counts[order(-as.integer(counts), match(names(counts), first))]
}

group_values <- function(column) if (is.factor(column)) levels(droplevels(column)) else sort(unique(column[!is.na(column)]))

by_group <- function(frame, numbers, others, by) {
  values <- group_values(frame[[by]])
  parts <- lapply(values, function(value) frame[!is.na(frame[[by]]) & frame[[by]] == value, , drop = FALSE])
  columns <- list(index_column("", numbers))
  for (at in seq_along(values)) {
    cells <- lapply(numbers, function(name) {
      whole <- as.double(frame[[name]][!is.na(frame[[name]])])
      held <- as.double(parts[[at]][[name]][!is.na(parts[[at]][[name]])])
      places <- places_for(stats::sd(whole), mean(whole))
      spread <- if (length(held) > 1L) stats::sd(held) else NULL
      list(content = if (length(held)) mean(held) else NULL, decimals = places, beside = list(content = spread, decimals = places))
    })
    head <- sprintf("%s (n\u202f=\u202f%d)", format(values[at]), nrow(parts[[at]]))
    columns <- c(columns, list(number_column(head, cells, format(values[at]))))
  }
  words <- if (!length(others)) "moments" else if (!length(numbers)) "shares" else "moments and shares"
  table <- list(columns = columns, left_out = 0L, notes = list(list(words = word(words))))
  for (name in others) {
    table$groups <- c(table$groups, list(list(row = length(table$columns[[1L]]$cells), words = name)))
    for (value in names(level_counts(frame[[name]]))) {
      cells <- c(list(value), lapply(parts, function(part) {
        count <- sum(as.character(part[[name]]) == value, na.rm = TRUE)
        share <- if (nrow(part)) sprintf("%.0f\u202f%%", 100 * count / nrow(part)) else "\u2013"
        list(content = count, beside = list(content = share))
      }))
      for (place in seq_along(table$columns)) table$columns[[place]]$cells <- c(table$columns[[place]]$cells, cells[place])
    }
  }
  table
}

crossed <- function(frame, rows, columns, shares, totals) {
  frame <- as.data.frame(frame)
  if (!shares %in% c("", "rows", "columns", "all")) stop(sprintf("shares are of `rows`, `columns` or `all`, and not of '%s'", shares), call. = FALSE)
  known_column(frame, rows)
  known_column(frame, columns)
  counts <- table(frame[[rows]], frame[[columns]])
  if (is.factor(frame[[rows]]) || is.factor(frame[[columns]])) counts <- counts[rowSums(counts) > 0, colSums(counts) > 0, drop = FALSE]
  down <- rowSums(counts)
  across <- colSums(counts)
  whole <- sum(counts)
  cell <- function(count, row, column) {
    if (!nzchar(shares)) return(as.integer(count))
    base <- switch(shares, rows = c(down, whole)[row], columns = c(across, whole)[column], all = whole)
    if (base) count / base else NULL
  }
  full <- if (totals) rbind(cbind(counts, down), c(across, whole)) else counts
  labels <- c(as.list(rownames(counts)), if (totals) list(list(content = word("total"))))
  index <- list(heads = list("", rows), name = rows, kind = "text", cells = labels, is_index = TRUE)
  made <- lapply(seq_len(ncol(full)), function(at) {
    is_sum <- at > ncol(counts)
    one <- list(heads = if (is_sum) list("", word("total")) else list(columns, colnames(counts)[at]), name = if (is_sum) "total" else colnames(counts)[at],
                kind = "number", cells = lapply(seq_len(nrow(full)), function(row) cell(full[row, at], row, at)), is_index = FALSE)
    if (nzchar(shares)) one$form <- "percent"
    one
  })
  list(columns = c(list(index), made), left_out = 0L, foot = if (totals) 1L else 0L)
}
