"""R as a language of chunks: what is shown, where it fails, values in sentences, and the same law as for all others."""

import random
import re
import shutil
import unittest
from string import ascii_lowercase

from tests.languages.made_up import MadeUp
from tests.languages.r_pages import steps
from tests.languages.test_bash import Pages, chunk
from wornpage.press import PressingFailed, press

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
STATE = (
    "count <- local({{ n <- {k}; function() {{ n <<- n + 1; n }} }})", "count()", "count(); count()", "kept <- count", "kept()", "e <- new.env(); e$n <- {k}", "e$n <- e$n + {k}", "e$n", "h <- list(e, {k})",
    "h[[1]]$n <- {k}", "h[[1]]$n", "f2 <- function() e$n", "f2()", "pair <- local({{ n <- {k}; list(up = function() n <<- n + 1, get = function() n) }})", "pair$up()", "pair$get()", "get_n <- pair$get", "get_n()",
    "e <- NULL", "g2 <- e", "g2$n <- {k}", "rm(count)", "rm(h)", "environment(count)$n", "total <- {k}", "add <- function(i) total <<- total + i", "add({k}); total", "l <- list(a = e)", "l$a$n", "identical(e, h[[1]])",
    "class(e) <- 'thing'", "memo <- new.env(); slow <- function(k) {{ key <- as.character(k); if (!is.null(memo[[key]])) 'kept' else {{ memo[[key]] <- k; 'made' }} }}", "slow({k})", "lockBinding('n', e)", "e$f <- function() e$n * {k}", "e$f()",
)  # fmt: skip
"""What is held in common and changed in place."""
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
        pool = STATE if chance.random() < 0.5 else LINES
        lines = chance.sample(OTHERS.get(language, pool), 1 if language != "r" else chance.randint(1, 4))
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


@unittest.skipUnless(shutil.which("R"), "R is not installed")
class R(Pages):
    def r(self, *codes: str) -> list[str]:
        """Press a page of chunks in R, labelled a, b, c; which ran."""
        return self.pressed(
            *(chunk(label, code, language="r") for label, code in zip(ascii_lowercase, codes, strict=False))
        )

    def text(self) -> str:
        return " ".join(
            re.sub(
                r"<[^>]*>",
                " ",
                re.sub(r"<svg.*?</svg>", " [figure] ", self.html.read_text(encoding="utf-8"), flags=re.DOTALL),
            ).split()
        )

    def failure(self, code: str, before: str = "z <- 1") -> str:
        with self.assertRaises(PressingFailed) as told:
            self.pressed(f"```r run #one\n{before}\n```", f"```r run #bad\n{code}\n```")
        return str(told.exception)

    def test_what_is_printed_warned_of_and_drawn_stands_in_its_order(self) -> None:
        self.r(
            "cat('one\\n'); message('two'); plot(1:3, main = 'Three', xlab = 'x', ylab = 'y'); cat('four\\n'); lines(1:3)\nwarning('five'); 6\ninvisible(7)\npage$prose('Eight is {= 4 * 2}.')"
        )
        shown = self.text()
        places = [
            shown.rindex(word) for word in ("one", "two", "[figure]", "four", "Warning: five", "[1] 6", "Eight is 8")
        ]
        self.assertEqual(places, sorted(places))
        self.assertNotIn("[1] 7", shown)
        self.assertIn('aria-label="Three: y against x"', self.html.read_text(encoding="utf-8"))

    def test_frames_counts_and_fits_are_tables(self) -> None:
        self.r(
            "data.frame(d = as.Date('2024-03-01') + 0:1, f = factor(c('u', NA)), n = c(1.5, NA), t = c(TRUE, FALSE), row.names = c('first', 'second'))",
            "table(c('p', 'q', 'p'), c('k', 'k', 'l'))", "lm(dist ~ speed, cars)", "t.test(extra ~ group, data = sleep)",
            "page$crosstab(mtcars, 'cyl', 'gear', caption = 'Gears of {= nrow(mtcars)}', shares = 'rows')",
            "page$model(lm(mpg ~ wt, mtcars), glm(am ~ wt, binomial, mtcars), names = c('Line', 'Odds'), stars = TRUE)",
            "page$summary(iris, by = 'Species', columns = 'Sepal.Length')",
            "page$table(anova(lm(dist ~ speed, cars)), notes = c('F value' = 'of a ratio'))", "page$model(t.test(extra ~ group, sleep), notes = c(estimate = 'of means'))",
            "page$model(lm(dist ~ speed, cars), decimals = 0, notes = c('first', 'then {= 1 + 1}'))",
            "tryCatch(page$prose(\"{= 'a' as '.2f'}\"), error = function(e) cat('so:', conditionMessage(e)))",
        )  # fmt: skip
        shown = self.text()
        for words in ("first 1 March 2024 u 1.5 yes second 2 March 2024 – – no", "k l p 1 1 q 1 0", "speed 3.932 0.416 &lt; 0.001", "Welch Two Sample t-test",
                      "Gears of 32", "72.7%", "Line Odds (Intercept) 37.285 *** 12.040 **", "setosa (n\u202f=\u202f50)", "5.01 (0.35)",
                      "Response: dist a of a ratio", "Welch Two Sample t-test a of means", "speed 4 0 ", "first then 2", "so: Unknown format code"):  # fmt: skip
            self.assertIn(" ".join(words.split()), shown)

    def test_values_of_r_stand_in_sentences(self) -> None:
        self.pressed(chunk("a", "x <- c(2.5, 3.5); d <- as.Date('2024-05-01'); f <- factor('lo')", language="r"), "Mean {= mean(x)}, {= sum(x) as words}, {= pi as 2 decimals}, {= pi as '.3f'}, {= d}, {= f}, {= NA}, {= c('a', 'b')}, {python= 1 + 1}.")  # fmt: skip
        self.assertIn("Mean 3, six, 3.14, 3.142, 1 May 2024, lo, –, a, b, 2.", self.text())

    def test_errors_name_lines_of_the_page_and_what_was_probably_meant(self) -> None:
        self.assertIn(
            "p.md:11:1: in chunk `bad`: Error: too large: 3",
            self.failure("y <- 1\nsapply(1:3, f)", before="f <- function(x) if (x > 2) stop('too large: ', x)"),
        )
        for code, words in (
            ("zz + 1", "object 'zz' not found"), ("ggplot(cars)", "Add `library(ggplot2)`"), ("library(nosuch)", "The package 'nosuch' is not installed"),
            ("x <- c(1,\n2 3)", "p.md:11:3: in chunk `bad`: SyntaxError: unexpected numeric constant"), ("q()", "the code called q()"),
            ("read.csv('no.csv')", "cannot open file 'no.csv'"), ("page$table(cars, decimals = list(sped = 1))", "did you mean 'speed'"),
            ("tools::pskill(Sys.getpid(), 11); Sys.sleep(1)", "a segmentation fault"),
        ):  # fmt: skip
            with self.subTest(code):
                self.assertIn(words, self.failure(code))
        with self.assertRaises(PressingFailed) as told:
            self.pressed("```r run #slow timeout=0.5s\nwhile (TRUE) NULL\n```")
        self.assertIn("past its timeout of 0.5 s", str(told.exception))

    def test_only_chunks_that_use_what_has_changed_run_again(self) -> None:
        codes = ["x <- 1", "f <- function(v) {\n  v + x\n}", "y <- 5", "f(2)", "y * 2"]
        self.r(*codes)
        for at, code, ran in (
            (2, "y <- 6", ["c", "e"]),
            (0, "x <- 2 # a remark", ["a", "d"]),
            (1, "f <- function(v) {\n  # adds\n  v + x\n}", []),
            (0, "x <-   2", []),
        ):
            codes[at] = code
            self.assertEqual(self.r(*codes), ran)

    def test_large_drawings_are_pixels_and_all_of_a_chunk_are_counted(self) -> None:
        self.r(
            "par(mfrow = c(1, 2)); hist(cars$speed); hist(cars$dist); par(mfrow = c(1, 1)); for (k in 1:2) plot(k)\nimage(volcano, useRaster = FALSE)\nplot(runif(9000), runif(9000))\npage$figure(function() plot(9), caption = 'Nine', label = 'nine')"
        )
        page = self.html.read_text(encoding="utf-8")
        self.assertEqual(page.count('class="picture"'), 6)
        self.assertIn("data:image/png", page)
        self.assertIn("Nine", self.text())

    def test_equal_values_of_several_names_and_inserts_with_given_values(self) -> None:
        self.write("part.md", "## Room {= room}\n\n```r run #in\nnchar(room)\n```\n")
        self.HEAD = "---\ntitle: t\ngiven: {branch: Quay}\n---\n\n"
        page = [chunk("a", "rooms <- c('Quay', 'Mill'); same <- 'Mill'; again <- 'Mill'", language="r"), "{insert part.md for room in rooms}", "{insert part.md room=paste0(given$branch,'s')}", "{= same} {= again}"]  # fmt: skip
        self.pressed(*page)
        self.assertIn("Room Quays", self.text())
        self.assertEqual(self.pressed(*page, "{= nchar(again)}"), [])
        for branch in ("Mill", "Quays"):
            press(self.folder / "p.md", given={"branch": branch})
            self.assertIn(f"Room {branch}s", self.text())

    def test_another_language_reads_the_files(self) -> None:
        self.pressed(chunk("a", "write.csv(data.frame(n = 1:3), 'o.csv', row.names = FALSE)", language="r"), chunk("b", "print(sum(int(line) for line in open('o.csv').read().split()[1:]))", language="python"))  # fmt: skip
        self.assertEqual([one.strip() for one in self.shown()], ["6"])


if __name__ == "__main__":
    unittest.main()
