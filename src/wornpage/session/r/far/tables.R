# Frames as tables: typed columns, row names only where they mean something.

# Rows of one table that are held; a workbook may have asked for all that a sheet takes.
rows_held <- function() S$rows_held %||% 2000L

# A value as a table, or NULL if it is none.
as_table <- function(value) {
  if (is.data.frame(value)) return(frame_table(value))
  if (inherits(value, c("table", "xtabs")) && length(dim(value)) %in% 1:2) return(counted_table(value))
  if (is.matrix(value) && !is.object(value) && !is.null(colnames(value)) && is.atomic(value)) return(matrix_table(value))
  NULL
}

frame_table <- function(frame) {
  rows <- nrow(frame)
  kept <- min(rows, rows_held())
  names <- names(frame)
  columns <- list()
  labels <- attr(frame, "row.names")
  if (is.character(labels) && !inherits(frame, "tbl_df")) columns <- list(index_column("", labels[seq_len(kept)]))
  bare <- unclass(frame)
  for (place in seq_along(names)) columns <- c(columns, columns_from(names[[place]], bare[[place]], kept))
  heading <- attr(frame, "heading")
  list(columns = columns, left_out = rows - kept,
       remarks = if (is.character(heading)) as.list(trimws(gsub("\n+", " ", heading[nzchar(trimws(heading))]))))
}

index_column <- function(head, cells, name = head) list(heads = list(head), name = name, kind = "text", cells = as.list(enc2utf8(as.character(cells))), is_index = TRUE)

# One column, or several where it is a matrix or a frame itself.
columns_from <- function(name, column, kept) {
  if (is.data.frame(column)) {
    return(unlist(lapply(names(column), function(one) columns_from(paste0(name, ".", one), column[[one]], kept)), recursive = FALSE))
  }
  if (is.matrix(column)) {
    inner <- colnames(column) %||% seq_len(ncol(column))
    return(lapply(seq_len(ncol(column)), function(at) one_column(paste0(name, ".", inner[at]), column[, at], kept)))
  }
  list(one_column(name, column, kept))
}

one_column <- function(name, column, kept) {
  head <- attr(column, "label", exact = TRUE)
  head <- if (is.character(head) && length(head) == 1L) head else name
  column <- utils::head(column, kept)
  made <- cells_of(column)
  if (inherits(column, "difftime")) head <- paste0(head, " (", attr(column, "units"), ")")
  made <- list(heads = list(enc2utf8(head)), name = enc2utf8(name), kind = made$kind, cells = made$cells, is_index = FALSE)
  if (made$kind == "number" && grepl("^(Pr\\(.*\\)|p[.-]?val(ue)?)$", name, ignore.case = TRUE)) made$form <- "p-value"
  made
}

cells_of <- function(column) {
  if (is.factor(column)) return(text_cells(as.character(column)))
  if (inherits(column, "Date")) return(list(kind = "date", cells = as.list(format(column, "%Y-%m-%d"))))
  if (inherits(column, c("POSIXct", "POSIXlt"))) return(list(kind = "date", cells = as.list(moments(as.POSIXct(column)))))
  if (inherits(column, "integer64")) return(list(kind = "number", cells = as.list(as.character(column))))
  if (inherits(column, "difftime")) return(list(kind = "number", cells = as.list(as.double(column))))
  if (is.list(column)) return(text_cells(vapply(column, short_words, "")))
  if (is.object(column) && !inherits(column, c("AsIs", "noquote", "numeric_version"))) {
    shown <- tryCatch(format(column), error = function(e) as.character(column))
    if (is.character(shown) && length(shown) == length(column) && !is_number_like(column)) return(text_cells(ifelse(is.na(column), NA, trimws(shown))))
  }
  if (is.logical(column)) return(list(kind = "truth", cells = as.list(as.vector(column))))
  if (is.numeric(column)) return(list(kind = "number", cells = as.list(as.vector(column))))
  text_cells(as.character(column))
}

is_number_like <- function(column) is.numeric(column) && inherits(column, c("labelled", "haven_labelled", "units", "table", "integer", "numeric"))

text_cells <- function(words) list(kind = "text", cells = as.list(enc2utf8(words)))

short_words <- function(value) {
  words <- if (is.null(value)) return(NA_character_) else if (is.atomic(value) || is.factor(value)) paste(format(value, trim = TRUE), collapse = ", ") else if (is.data.frame(value)) paste0(nrow(value), " \u00d7 ", ncol(value)) else class(value)[1L]
  if (nchar(words) > 200L) paste(substr(words, 1L, 200L), "\u2026") else words
}

# Moments in ISO form; the time of day only if one of them has any.
moments <- function(column) {
  known <- column[!is.na(column)]
  seconds <- as.numeric(format(known, "%H")) * 3600 + as.numeric(format(known, "%M")) * 60 + as.numeric(format(known, "%OS6"))
  if (!any(seconds != 0)) return(format(column, "%Y-%m-%d"))
  text <- format(column, "%Y-%m-%d %H:%M:%S")
  zone <- (attr(column, "tzone") %||% "")[1L]
  if (zone %in% c("", "UTC", "GMT")) return(text)
  offset <- format(column, "%z")
  ifelse(is.na(text), NA, paste0(text, substr(offset, 1L, 3L), ":", substr(offset, 4L, 5L)))
}

counted_table <- function(value) {
  labels <- dimnames(value)
  heads <- names(labels) %||% rep("", length(dim(value)))
  if (length(dim(value)) == 1L) {
    cells <- as.list(as.vector(value))
    kept <- seq_len(min(length(cells), rows_held()))
    return(list(columns = list(index_column(heads[1L], labels[[1L]][kept], "value"),
                               list(heads = list(list(word = "n")), name = "n", kind = "number", cells = cells[kept], is_index = FALSE)),
                left_out = length(cells) - length(kept)))
  }
  index <- index_column("", labels[[1L]], heads[1L])
  index$heads <- list("", heads[1L])
  columns <- lapply(seq_len(ncol(value)), function(at) {
    list(heads = list(heads[2L], labels[[2L]][at]), name = labels[[2L]][at], kind = "number", cells = as.list(as.vector(value[, at])), is_index = FALSE)
  })
  if (!nzchar(heads[2L])) {
    index$heads <- list(heads[1L])
    columns <- lapply(columns, function(one) { one$heads <- one$heads[-1L]; one })
  }
  list(columns = c(list(index), columns), left_out = 0L)
}

matrix_table <- function(value) {
  kept <- min(nrow(value), rows_held())
  names <- colnames(value)
  columns <- lapply(seq_len(ncol(value)), function(at) one_column(names[at], value[, at], kept))
  if (!is.null(rownames(value))) columns <- c(list(index_column("", rownames(value)[seq_len(kept)])), columns)
  list(columns = columns, left_out = nrow(value) - kept)
}
