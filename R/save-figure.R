# A result's figure as PNG, SVG or PDF, with the finer devices where they are installed.

# `bare` leaves out title, subtitle and caption, where they stand around the figure. Gives back the
# text for those who cannot see it.
write_figure <- function(x, path, kind, width, height, bare = FALSE) {
  plot <- ggplot2::autoplot(x)
  alt <- ggplot2::get_alt_text(plot)
  if (bare) plot <- plot + ggplot2::labs(title = NULL, subtitle = NULL, caption = NULL)
  open_device(path, kind, width, height)
  shut <- FALSE
  on.exit(if (!shut) grDevices::dev.off())
  print(plot)
  grDevices::dev.off()
  shut <- TRUE
  invisible(alt)
}

# Pictures are laid out for 8.9 by 5 inches and more. A smaller one is the same in small: what is
# made of pixels has fewer of them to the inch, what is drawn by strokes is scaled where it is put.
open_device <- function(path, kind, width, height) {
  small <- min(1, width / 8.9, height / 5)
  width <- width / small
  height <- height / small
  dots <- 144 * small
  if (kind == "png" && requireNamespace("ragg", quietly = TRUE))
    return(ragg::agg_png(path, width, height, units = "in", res = dots))
  if (kind == "svg" && requireNamespace("svglite", quietly = TRUE))
    return(svglite::svglite(path, width, height))
  switch(kind,
         png = grDevices::png(path, width, height, units = "in", res = dots),
         svg = grDevices::svg(path, width, height),
         pdf = if (capabilities("cairo")) grDevices::cairo_pdf(path, width, height) else
           grDevices::pdf(path, width, height))
}
