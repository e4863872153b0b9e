# Figures that look like the page: its sizes and colours, as the first state of what draws them.
#
# What stands in the page's ink has one colour that outputs know (tree/look.py): in HTML it turns with the page into the dark.

page_ink <- "#23262b"
page_lines <- "#d8d4ca"
page_colours <- c("#2f7f86", "#b5533c", "#c08a2e", "#6b6fa8", "#5f8a4e", "#a1577f", "#7d6a55", "#4a90c2")

# Before anything of the page: all of it counts as what was there at first.
wear_page_look <- function() {
  S$page_look <- TRUE
  grDevices::palette(c(page_ink, page_colours[-8L]))
  options(ggplot2.discrete.colour = page_colours, ggplot2.discrete.fill = page_colours)
  setHook(packageEvent("ggplot2", "onLoad"), function(...) {
    was_on <- S$on
    S$on <- FALSE
    on.exit(S$on <- was_on)
    S$page_theme <- page_theme()
    ggplot2::theme_set(S$page_theme)
  })
}

page_theme <- function() {
  nothing <- ggplot2::element_blank()
  ggplot2::theme_minimal(base_size = 9) + ggplot2::theme(
    text = ggplot2::element_text(colour = page_ink), axis.text = ggplot2::element_text(colour = page_ink), strip.text = ggplot2::element_text(colour = page_ink, face = "bold"),
    plot.title = ggplot2::element_text(face = "bold"), plot.background = nothing, panel.background = nothing, legend.background = nothing, legend.key = nothing,
    panel.grid.major = ggplot2::element_line(colour = page_lines), panel.grid.minor = nothing, axis.line = ggplot2::element_line(colour = page_ink), axis.ticks = ggplot2::element_line(colour = page_ink)
  )
}

# A device of base graphics was opened.
wear_on_device <- function() {
  graphics::par(
    fg = page_ink, col = page_ink, col.axis = page_ink, col.lab = page_ink, col.main = page_ink, col.sub = page_ink,
    bty = "l", las = 1, mgp = c(2.3, 0.6, 0), tcl = -0.3, cex.axis = 0.9, cex.main = 1.05
  )
}
