# Values on their way to another language, and from one: columns of words by their different words.

give_value <- function(message) {
  stand(message)
  value <- tryCatch(get(message$name, envir = G), error = function(e) e)
  if (inherits(value, "error") && !message$name %in% S$names) return(send(list(event = "given", trouble = conditionMessage(value))))
  trouble <- cannot_cross(value)
  if (nzchar(trouble)) return(send(list(event = "given", trouble = trouble)))
  send(list(event = "given", trouble = ""), list(as_bytes(packed_words(value))))
}

cannot_cross <- function(value) {
  if (is.function(value)) return("it is a function, and functions stay in their language")
  if (is.environment(value)) return("it is an environment, and those stay in their language")
  if (isS4(value)) return(sprintf("it is an object of the class '%s', and such stay in their language", class(value)[1L]))
  ""
}

packed_words <- function(value) {
  if (is.data.frame(value)) {
    plain <- as.list(value)
    labels <- attr(value, "row.names")
    for (name in seq_along(plain)) plain[[name]] <- packed_words(plain[[name]])
    return(structure(plain, names = names(value), class = "data.frame", row.names = if (is.character(labels)) labels else .set_row_names(length(labels))))
  }
  if (is.character(value) && length(value) >= 1000L && is.null(attributes(value))) {
    words <- unique(value[!is.na(value)])
    codes <- match(value, words)
    codes[is.na(codes)] <- 0L
    return(structure(list(codes = codes, words = enc2utf8(words)), class = "worn_words"))
  }
  value
}

unpacked_words <- function(value) {
  if (inherits(value, "worn_words")) {
    codes <- value$codes
    codes[codes == 0L] <- NA_integer_
    return(value$words[codes])
  }
  if (is.data.frame(value)) {
    rows <- .row_names_info(value, 2L)
    labels <- attr(value, "row.names")
    plain <- lapply(unclass(value), unpacked_words)
    attributes(plain) <- list(names = names(value), class = "data.frame", row.names = if (is.character(labels)) labels else .set_row_names(abs(rows)))
    return(plain)
  }
  if (is.list(value) && !is.object(value)) return(lapply(value, unpacked_words))
  value
}

# Names that a chunk takes over from another language stand for what they stood for there.
take_over <- function(handed) for (name in names(handed)) assign(name, unpacked_words(unserialize(handed[[name]])), envir = G)
