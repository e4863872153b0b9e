# Fitted models, by what they offer and not by their class: a matrix of coefficients, or the parts of a test.

# A fit as terms and what stands at its foot, or NULL if it offers nothing that can be shown.
read_fit <- function(fit, level = NULL) {
  if (inherits(fit, "htest")) return(read_test(fit))
  table <- coefficients_of(fit)
  if (is.null(table)) return(NULL)
  ends <- if (is.null(level)) NULL else interval_of(fit, level, table)
  terms <- lapply(seq_len(nrow(table)), function(row) list(
    name = rownames(table)[row], estimate = table[row, "estimate"], error = table[row, "error"], p = table[row, "p"],
    low = if (is.null(ends)) NULL else ends[row, 1L], high = if (is.null(ends)) NULL else ends[row, 2L]))
  list(terms = terms, foot = foot_of(fit))
}

quietly <- function(code) tryCatch(suppressWarnings(suppressMessages(code)), error = function(e) NULL)

# A matrix with the columns `estimate`, `error` and `p`; NA where there is none.
coefficients_of <- function(fit) {
  if (is.atomic(fit) || is.function(fit) || is.environment(fit) || is.data.frame(fit) || is.language(fit)) return(NULL)
  told <- if (inherits(fit, "summary.lm") || inherits(fit, "summary.glm")) fit else quietly(summary(fit))
  if (is.null(told) || is.atomic(told)) return(NULL)
  found <- quietly(stats::coef(told))
  if (!is.matrix(found)) found <- quietly(told$tTable)
  if (!is.matrix(found)) found <- quietly(told$coefficients)
  if (!is.matrix(found)) found <- quietly(told$p.table)
  if (!is.matrix(found) || !is.numeric(found) || is.null(rownames(found)) || ncol(found) < 2L) return(NULL)
  made <- with_roles(found)
  smooth <- quietly(told$s.table)
  if (is.matrix(smooth)) made <- rbind(made, matrix(c(smooth[, 1L], rep(NA, nrow(smooth)), smooth[, ncol(smooth)]), ncol = 3L,
                                                    dimnames = list(rownames(smooth), colnames(made))))
  whole <- quietly(stats::coef(fit))
  if (is.numeric(whole) && !is.null(names(whole)) && anyNA(whole) && all(rownames(found) %in% names(whole))) {
    all <- matrix(NA_real_, length(whole), 3L, dimnames = list(names(whole), colnames(made)))
    all[rownames(made), ] <- made
    made <- all
  }
  made
}

with_roles <- function(found) {
  heads <- tolower(colnames(found) %||% rep("", ncol(found)))
  error <- c(which(grepl("^se\\(|std|s\\.?e\\.?$|^se", heads)), 2L)[1L]
  p <- which(grepl("^pr\\(|^p$|p[- .]?val", heads))
  matrix(c(found[, 1L], found[, error], if (length(p)) found[, p[1L]] else rep(NA_real_, nrow(found))), ncol = 3L,
         dimnames = list(rownames(found), c("estimate", "error", "p")))
}

interval_of <- function(fit, level, table) {
  found <- quietly(stats::confint(fit, level = level))
  if (is.null(found)) found <- quietly(stats::confint.default(fit, level = level))
  if (is.null(dim(found)) && length(found) == 2L) found <- matrix(found, 1L, dimnames = list(rownames(table)[1L], NULL))
  if (is.null(dim(found))) {
    far <- stats::qnorm(0.5 + level / 2) * table[, "error"]
    return(cbind(table[, "estimate"] - far, table[, "estimate"] + far))
  }
  found[match(rownames(table), rownames(found)), 1:2, drop = FALSE]
}

foot_of <- function(fit) {
  told <- quietly(summary(fit))
  part <- function(name) quietly(if (is.list(told)) told[[name]] else NULL)
  one <- function(value) if (is.numeric(value) && length(value) >= 1L && is.finite(value[1L])) as.double(value[1L]) else NULL
  foot <- list(
    nobs = one(quietly(stats::nobs(fit))), rsquared = one(part("r.squared")) %||% one(part("r.sq")), rsquared_adj = one(part("adj.r.squared")),
    fvalue = one(part("fstatistic")), aic = one(quietly(stats::AIC(fit))), bic = one(quietly(stats::BIC(fit))), llf = one(quietly(stats::logLik(fit))))
  if (inherits(fit, c("summary.lm", "summary.glm"))) foot$nobs <- one(length(part("residuals")))
  foot[!vapply(foot, is.null, NA)]
}

# A test: its statistic with the p-value, what it estimates, and the interval of that.
read_test <- function(test) {
  terms <- list()
  add <- function(...) terms[[length(terms) + 1L]] <<- list(...)
  if (length(test$statistic)) add(name = names(test$statistic)[1L] %||% "statistic", estimate = unname(test$statistic[1L]), p = test$p.value)
  else add(name = "p", p = test$p.value)
  for (name in names(test$estimate)) add(name = name, estimate = unname(test$estimate[name]))
  if (length(test$conf.int) == 2L) {
    if (length(test$estimate) == 1L) {
      terms[[length(terms)]]$low <- test$conf.int[1L]
      terms[[length(terms)]]$high <- test$conf.int[2L]
    } else add(name = "difference", low = test$conf.int[1L], high = test$conf.int[2L])
  }
  df <- test$parameter
  list(terms = terms, foot = if (length(df)) list(df = as.double(df[1L])) else list(), remark = trimws(paste(test$method, collapse = " ")),
       level = attr(test$conf.int, "conf.level"))
}
