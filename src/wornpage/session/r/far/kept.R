# Values as bytes, and which of them need a closer look than their bytes.

usual_attributes <- c("names", "row.names", "class", "levels", "dim", "dimnames", "tzone", "units", "tsp", "label")

# Whether a value is data and nothing else, so that equal bytes mean equal values. What takes long to tell counts as not.
is_plain <- function(value) {
  S$budget <- 20000L
  plain_inside(value)
}

plain_inside <- function(value) {
  S$budget <- S$budget - 1L
  if (S$budget < 0L || isS4(value)) return(FALSE)
  if (is.null(value)) return(TRUE)
  kind <- typeof(value)
  if (!kind %in% c("logical", "integer", "double", "complex", "character", "raw", "list")) return(FALSE)
  has <- attributes(value)
  for (name in setdiff(names(has), usual_attributes)) if (!plain_inside(has[[name]])) return(FALSE)
  if (kind != "list") return(TRUE)
  value <- unclass(value)
  if (length(value) > 1000L) {
    return(all(vapply(value, function(one) is.atomic(one) && is.null(attributes(one)), NA)))
  }
  for (one in value) if (!plain_inside(one)) return(FALSE)
  TRUE
}

# The bytes of a value, and the addresses of what in it can be changed in place: environments, tables that grow.
bytes_of <- function(value) {
  seen <- character()
  aside <- left_aside(value)
  bytes <- as_bytes(value, function(one) {
    at <- address_of(one)
    if (!at %in% aside) seen <<- c(seen, at)
    NULL
  })
  list(bytes = bytes, shares = unique(c(seen, growing(value))))
}

# Addresses of what in a value can be changed in place; NULL for nothing.
shares_of <- function(value) {
  found <- bytes_of(value)$shares
  if (length(found)) found
}

growing <- function(value) in_lists(value, function(one) if (inherits(one, "data.table")) paste("table", address_of(one)))

# Addresses of pointers that readers of files leave at a frame: nothing is changed through them.
left_aside <- function(value) in_lists(value, function(one) {
  pointer <- attr(one, "problems", exact = TRUE)
  if (typeof(pointer) == "externalptr") address_of(pointer)
})

# What `find` finds in a list and in all lists within it; nothing in anything else.
in_lists <- function(value, find) {
  if (!is.list(value)) return(character())
  inner <- unclass(value)
  c(find(value), unlist(lapply(inner[vapply(inner, is.list, NA)], in_lists, find)))
}

address_of <- function(value) deparse(.Internal(address(value)))
