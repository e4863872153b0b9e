# Figures: every page that is drawn on a device of ours, at its real size, as a vector drawing.
#
# The device opens when something is first drawn. A page is told of when it begins, so that it stands at its place among what
# is printed, and sent when the next one begins or the chunk ends: until then it may be drawn on.

usual_width <- 15      # centimetres
usual_height <- 9.5
largest_drawing <- 1e6 # bytes above which a figure is sent as pixels

begin_figures <- function() {
  S$figures <- list()
  S$device <- 0L
  S$slot <- 0L
  setHook("before.plot.new", function(...) if (S$drawing && begins_page()) end_page())
  setHook("plot.new", function(...) if (S$drawing && S$pending) begin_page(FALSE))
  setHook("before.grid.newpage", function(...) if (S$drawing && begins_page(TRUE)) end_page())
  setHook("grid.newpage", function(...) if (S$drawing && S$pending) begin_page(TRUE))
  S$drawing <- FALSE
  S$pending <- FALSE
  options(device = open_device)
}

# A chunk begins: what it draws has the size that is asked for; one length alone keeps the proportions.
start_drawing <- function(wanted) {
  width <- wanted$width
  height <- wanted$height
  if (width && !height) height <- width * usual_height / usual_width
  if (height && !width) width <- height * usual_width / usual_height
  S$size <- if (width) c(width, height) else c(usual_width, usual_height)
  S$dpi <- wanted$dpi
  S$folder <- tempfile("worn-")
  S$devices <- 0L
  S$shots <- list()
  S$current <- NULL
  S$pending <- FALSE
  S$last_trellis <- last_trellis()
  S$drawing <- TRUE
}

open_device <- function(...) {
  if (!S$drawing) stop("there is nothing to draw on here")
  S$devices <- S$devices + 1L
  S$pages <- 0L
  dir.create(file.path(S$folder, S$devices), recursive = TRUE, showWarnings = FALSE)
  grDevices::svg(file.path(S$folder, S$devices, "%04d.svg"), S$size[1L] / 2.54, S$size[2L] / 2.54, pointsize = 10, bg = if (isTRUE(S$page_look)) "transparent" else "white")
  grDevices::dev.control("enable")
  if (isTRUE(S$page_look)) wear_on_device()
  S$device <- grDevices::dev.cur()
}

is_our_device <- function() S$device > 1L && grDevices::dev.cur() == S$device

# Whether what is about to be drawn begins a page of ours.
begins_page <- function(whole = FALSE) {
  was_on <- S$on
  S$on <- FALSE
  on.exit(S$on <- was_on)
  S$pending <- if (grDevices::dev.cur() == 1L) TRUE else is_our_device() && (whole || S$pages == 0L || graphics::par("page"))
  S$pending
}

begin_page <- function(is_grid) {
  S$pending <- FALSE
  if (!is_our_device()) return()
  was_on <- S$on
  S$on <- FALSE
  on.exit(S$on <- was_on)
  S$pages <- S$pages + 1L
  S$slot <- S$slot + 1L
  S$current <- list(slot = S$slot, file = file.path(S$folder, S$devices, sprintf("%04d.svg", S$pages)), words = NULL, is_grid = is_grid)
  if (is_grid) S$current$alt <- tryCatch(layers_alt(), error = function(e) NULL)
  show(list(kind = "slot", slot = S$slot))
}

# The page that is drawn on is whole: what was drawn is kept, since a large one is drawn again as pixels.
end_page <- function() {
  shot <- S$current
  if (is.null(shot)) return(invisible())
  S$current <- NULL
  was_on <- S$on
  S$on <- FALSE
  on.exit(S$on <- was_on)
  if (is_our_device()) {
    shot$recorded <- tryCatch(grDevices::recordPlot(), error = function(e) NULL)
    if (is.null(shot$alt)) shot$alt <- tryCatch(if (shot$is_grid) trellis_alt() else alt_of(shot$recorded), error = function(e) "")
  }
  S$shots <- c(S$shots, list(shot))
}

# Send every page that has been drawn, and leave no device open.
end_drawing <- function() {
  end_page()
  S$drawing <- FALSE
  grDevices::graphics.off()
  for (shot in S$shots) send_shot(shot)
  S$shots <- list()
  S$device <- 0L
  unlink(S$folder, recursive = TRUE)
  S$last_layers <- NULL
  if (isNamespaceLoaded("ggplot2")) try(ggplot2::set_last_plot(NULL), silent = TRUE)
}

send_shot <- function(shot) {
  if (!file.exists(shot$file)) return(send(list(event = "figure", slot = shot$slot, item = NULL)))
  item <- c(list(kind = "figure", format = "svg", width = S$size[1L], height = S$size[2L], alt = shot$alt %||% ""), shot$words)
  file <- shot$file
  if (file.size(file) > largest_drawing && !is.null(shot$recorded)) {
    pixels <- paste0(file, ".png")
    drawn <- tryCatch({
      grDevices::png(pixels, S$size[1L] / 2.54, S$size[2L] / 2.54, units = "in", res = S$dpi, pointsize = 10, type = "cairo")
      grDevices::replayPlot(shot$recorded)
      TRUE
    }, error = function(e) FALSE)
    grDevices::graphics.off()
    if (drawn) {
      file <- pixels
      item$format <- "png"
    }
  }
  if (isTRUE(S$page_look) && item$format == "svg") item$look <- "page"
  send(list(event = "figure", slot = shot$slot, item = item), list(readBin(file, "raw", file.size(file))))
}

# A short account of a figure from its titles and axes, for those who cannot see it: of one made of layers, when it begins.
layers_alt <- function() {
  if (!isNamespaceLoaded("ggplot2")) return(NULL)
  last <- ggplot2::last_plot()
  if (is.null(last) || !is.null(S$last_layers) && is_same(last, S$last_layers)) return(NULL)
  S$last_layers <- last
  labels <- last$labels
  said(labels$title, labels$x, labels$y)
}

# Of one in panels, when it has been drawn.
trellis_alt <- function() {
  last <- last_trellis()
  if (is.null(last) || identical(last, S$last_trellis)) return("")
  S$last_trellis <- last
  said(last$main, last$xlab, last$ylab)
}

last_trellis <- function()
  if (isNamespaceLoaded("lattice")) tryCatch(lattice::trellis.last.object(warn = FALSE), error = function(e) NULL)

# Of one of base graphics, from what was drawn.
alt_of <- function(recorded) {
  parts <- list()
  for (one in recorded[[1L]]) {
    what <- one[[2L]]
    name <- tryCatch(what[[1L]]$name, error = function(e) "")
    if (identical(name, "C_title")) {
      words <- lapply(as.list(what)[2:5], function(part) if (is.character(part) || is.expression(part)) as.character(part)[1L] else NULL)
      parts <- c(parts, said(words[[1L]], words[[3L]], words[[4L]]))
    }
  }
  parts <- unlist(parts)
  paste(unique(parts[nzchar(parts)]), collapse = "; ")
}

said <- function(title, across, up) {
  one <- function(words) if (is.character(words) && length(words) && !is.na(words[1L])) words[1L] else ""
  title <- one(title)
  axes <- c(one(up), one(across))
  axes <- if (all(nzchar(axes))) paste(axes, collapse = " against ") else paste(axes, collapse = "")
  paste(c(title, axes)[nzchar(c(title, axes))], collapse = ": ")
}
