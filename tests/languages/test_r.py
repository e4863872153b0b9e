"""R as a language of chunks: what is shown, where it fails, values in sentences, and the same law as for all others."""

import random
import shutil
import unittest

from tests.languages.made_up import MadeUp
from tests.languages.r_pages import steps
from tests.languages.test_bash import Pages, chunk

LINES = (
    "x <- {k}", "y <- x + {k}", "x", "y * 2", "v <- c(v, {k})", "v <- 1:{k}", "v[1] <- {k}L; v", "f <- function(a) a + {k}", "f(x)", "g <- function(a) f(a) * x",
    "g({k})", "rm(x)", "exists('x')", "ls()", "e <- new.env(); e$n <- {k}", "e$n <- e$n + {k}; e$n", "h <- list(e, {k})", "h[[1]]$n", "h[[1]]$n <- {k}", "count <- local({{ n <- {k}; function() {{ n <<- n + 1; n }} }})",
    "count()", "kept <- count", "kept()", "d <- data.frame(a = 1:4, b = {k})", "d$a <- d$a * {k}; colSums(d)", "d", "m <- lm(a ~ b, d); length(m)", "o <- structure(list({k}), class = 'thing')", "o", "print.thing <- function(x, ...) cat('T{k}\\n')",
    "rnorm(1)", "set.seed({k}); runif(1)", "options(digits = {k} + 3)", "pi", "Sys.setenv(ROOM = '{k}')", "Sys.getenv('ROOM')", "cat({k}, '\\n', file = 'f.txt')", "readLines('f.txt')", "file.exists('f.txt')", "list.files(pattern = 'txt')",
    "cat({k}, '\\n', file = 'log.txt', append = TRUE)", "unlink('f.txt')", "total <<- {k}", "add <- function(i) total <<- total + i", "add({k}); total", "mean <- function(...) {k}", "mean(c(1, 4))", "library(MASS)", "'MASS' %in% .packages()",
    "w <- quote(x + {k})", "eval(w)", "delayedAssign('z', x + {k})", "z", "assign(paste0('q', {k}), {k})", "get0('q{k}')", "stop('no {k}')", "warning('hm {k}')", "setClass('P', representation(v = 'numeric')); p <- new('P', v = {k})", "p@v",
    "con <- textConnection(c('a', 'b', '{k}'))", "readLines(con, 1)", "plot({k})", "par(mfrow = c(1, 2)); plot(1); plot({k})", "attr(v, 'unit') <- 'u{k}'; attributes(v)", "l <- list(a = e, b = {k}); l$a$n <- {k}", "sapply(1:2, f)", "with(d, sum(a) + x)",
    "`{k}a` <- {k}; `{k}a`", "setwd('sub'); basename(getwd()); setwd('..')", "x <- NULL", "if (exists('y')) y else 'none'", "tryCatch(undefined_{k}, error = function(e) 'caught')", "sort(c('b', 'A', 'a'))",
)  # fmt: skip
OTHERS = {
    "python": ("print(open('f.txt').read())", "open('f.txt', 'w').write('{k}\\n')", "x = {k}\nprint(x)"),
    "bash": ("cat f.txt", "echo {k} > f.txt"),
}


@unittest.skipUnless(shutil.which("R"), "R is not installed")
class Law(MadeUp, Pages):
    SEEDS = 3

    def made(self, chance: random.Random, label: str) -> str:
        """A random chunk: mostly in R, now and then in another language."""
        language = chance.choices(["r", *OTHERS], (12, 1, 1))[0]
        lines = chance.sample(OTHERS.get(language, LINES), 1 if language != "r" else chance.randint(1, 4))
        return chunk(label, *(line.format(k=chance.randint(1, 3)) for line in lines), language=language)

    def test_hard_pages(self) -> None:
        """Some of those that are the hardest; `python -m tests.languages` tries them all."""
        for name in (
            "environment changed through another",
            "reference class",
            "method defined later",
            "masked by a package",
            "written over below",
        ):
            kept = self.folder / name.replace(" ", "-")
            kept.mkdir()
            for number, chunks in enumerate(steps(name)):
                clean = self.folder / f"{kept.name}-{number}" / kept.name
                shutil.copytree(kept, clean, ignore=shutil.ignore_patterns(".worn", "p.*"))
                page = [chunk(label, code, language="r") for label, code in chunks.items()]
                self.pressed(*page, folder=kept)
                made = self.html.read_bytes()
                self.pressed(*page, folder=clean)
                with self.subTest(f"{name}, step {number}"):
                    self.assertEqual(made, self.html.read_bytes())


if __name__ == "__main__":
    unittest.main()
