# The far end of an R session: waits for chunks, runs them, tells what they show, read and wrote.
#
# All that is ours lies in one environment under the base namespace: no name of the page is ever in the way. The last line
# answers until the other end closes, since code that reads R's own input would read on in this file.
local({
  ours <- new.env(parent = .BaseNamespaceEnv)
  told <- Sys.getenv(c("WORN_ASK", "WORN_TELL", "WORN_FAULT", "WORN_SENTINEL", "WORN_FAR"))
  Sys.unsetenv(names(told))
  for (file in c("ends", "names", "looks", "kept", "surroundings", "wrapped", "spaces", "packages", "parsing", "errors", "words", "tables", "fits",
                 "statistics", "figures", "wearing", "showing", "page", "account", "running", "marks", "giving")) {
    sys.source(file.path(told[["WORN_FAR"]], paste0(file, ".R")), ours, keep.source = FALSE)
  }
  ours$open_ends(told[["WORN_ASK"]], told[["WORN_TELL"]], told[["WORN_FAULT"]], told[["WORN_SENTINEL"]])
  ours$answer_until_the_end()
})
