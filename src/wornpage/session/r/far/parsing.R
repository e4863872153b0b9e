# Where code is no code.

# Line and column, counted from 1, and what is wrong, from what R says of code that it cannot parse.
syntax_place <- function(words, code) {
  place <- regmatches(words, regexec("^[^:]*:([0-9]+):([0-9]+): ([^\n]*)", words))[[1L]]
  if (length(place) != 4L) return(list(line = 1L, column = 1L, what = sub("\n.*", "", words)))
  line <- as.integer(place[2L])
  column <- as.integer(place[3L])
  if (column == 0L) {    # the code has come to its end
    lines <- strsplit(code, "\n", fixed = TRUE)[[1L]]
    line <- max(1L, min(line, length(lines)))
    column <- nchar(lines[line]) + 1L
  }
  list(line = line, column = column, what = place[4L])
}
