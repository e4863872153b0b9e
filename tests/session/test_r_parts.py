"""R read from outside: its tokens, what code binds and mentions, its serialization, and fingerprints that do not hang on chance."""

import datetime
import shutil
import subprocess
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from wornpage.session.r.code import RCode, asks_for_all, only_written
from wornpage.session.r.normal import normal
from wornpage.session.r.plain import packed, plain
from wornpage.session.r.session import RSession
from wornpage.session.r.shown import answer, figure, marks_in
from wornpage.session.r.stream import read
from wornpage.session.r.tokens import Kind, lines_within, tokens
from wornpage.session.tasks import ChunkTask, Environment, MarkTask, Position

CODE = RCode()
PLAIN = st.recursive(
    st.none() | st.booleans() | st.integers(-(2**31) + 1, 2**31 - 1) | st.floats(allow_nan=False) | st.text(st.characters(codec="utf-8", exclude_characters="\0")) | st.binary(),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text("abcd", min_size=1), inner, min_size=1, max_size=4), max_leaves=10,
)  # fmt: skip


class Tokens(unittest.TestCase):
    def test_texts_names_and_numbers_are_whole(self) -> None:
        code = "`a b` <- r\"(x \"y\" #)\" + 1e-3L %in% .5 # no\nf <- \\(x) x$y |> g(z = 'it''s')"
        row = [(token.kind, token.text) for token in tokens(code)]
        for one in (
            (Kind.NAME, "a b"),
            (Kind.TEXT, 'x "y" #'),
            (Kind.NUMBER, "1e-3L"),
            (Kind.SIGN, "%in%"),
            (Kind.NUMBER, ".5"),
            (Kind.SIGN, "|>"),
            (Kind.TEXT, "it"),
        ):
            self.assertIn(one, row)
        self.assertNotIn((Kind.NAME, "no"), row)

    @given(st.text(alphabet="ab`'\"#%<-(){}\n\\r1. ", max_size=40))
    def test_anything_can_be_read(self, code: str) -> None:
        for token in tokens(code):
            self.assertIn(token.raw.split("\n", 1)[0], code.split("\n")[token.line - 1])
        CODE.normal_form(code), CODE.bound(code), CODE.definitions(code)

    def test_lines_that_go_on(self) -> None:
        self.assertEqual(lines_within("a <- c(1,\n2)\nb <-\n  3\nd\n'x\ny'\n{\n1\n}\ne +\n f"), {2, 4, 7, 9, 10, 12})


class Code(unittest.TestCase):
    def test_comments_spaces_and_empty_lines_do_not_count_and_ends_of_lines_do(self) -> None:
        same = ("x <- f(1,2)\ny", "x<-f( 1,\n\n 2 ) # told\n\n\ny\n")
        self.assertEqual(*map(CODE.normal_form, same))
        for other in ("x <- f(1,2) y", "x <- f(1,2)\nz", "x <- f(1,'2')\ny", "x <- f(1,2L)\ny", "{\nx <- f(1,2)\n}\ny"):
            self.assertNotEqual(CODE.normal_form(same[0]), CODE.normal_form(other), other)
        self.assertNotEqual(CODE.normal_form("'a#b'"), CODE.normal_form("'a'"))

    def test_what_code_binds_outside_of_functions(self) -> None:
        for code, names in (
            ("a <- 1; b = 2; 3 -> d; e <<- 4", {"a", "b", "d", "e"}), ("f(a = 1, b <- 2)", {"b"}), ("x$y <- 1; x[1] <- 2; names(z) <- 'n'; w$a$b[[2]] <- 3", {"x", "z", "w"}),
            ("f <- function(p) {\n  inner <- p\n}\nafter <- 1", {"f", "after"}), ("for (i in 1:3) j <- i", {"i", "j"}), ("assign('n', 1); `odd name` <- 2", {"n", "odd name"}),
            ("g <- function(x) x + 1\nh <- 2", {"g", "h"}), ("if (a == 1) b <- 2", {"b"}), ("lm(y ~ x, data = d)", set()),
        ):  # fmt: skip
            with self.subTest(code):
                self.assertEqual(CODE.bound(code), names)
        self.assertEqual(CODE.definitions("f <- function(a) g(a, k)\nh <- 1")["f"] - {"function"}, {"a", "g", "k"})

    def test_labels_that_calls_of_the_page_give(self) -> None:
        for code, found in (
            ("page$table(cars, label = 'a', caption = f(1))", ({"a"}, False)), ("page$figure(label = paste0('x', i))", (set(), True)),
            ("geom_text(aes(label = n)); page$prose('label = \"no\"')", (set(), False)), ("page$table(x,", (set(), False)),
            ("# page$table(x, label = 'c')\npage$heading('H', label=\"d\")", ({"d"}, False)),
        ):  # fmt: skip
            with self.subTest(code):
                self.assertEqual(RCode().labels(code), (frozenset(found[0]), found[1]))

    def test_what_stands_for_the_page_in_a_script(self) -> None:
        made = RCode().alone("given$n; page$table(x)", {"n": 3, "words": ["a", "b"]})
        self.assertEqual(made[0], 'given <- list(n = 3L, words = c("a", "b"))')
        self.assertTrue(made[1].startswith("page <- list("))
        self.assertEqual(RCode().alone("x <- 1", {"n": 3}), [])

    def test_what_asks_for_all_what_only_writes_and_the_clock(self) -> None:
        self.assertTrue(asks_for_all(CODE.mentioned("sapply(ls(), get)")))
        self.assertFalse(asks_for_all(CODE.mentioned("tools <- list(x = 1)")))
        self.assertEqual(
            only_written("saveRDS(x, 'o.rds'); y <- readRDS('i.rds'); write.csv(y, file = \"t.csv\") # png('n.png')"),
            ("o.rds", "t.csv"),
        )
        self.assertEqual(only_written("x <- read.csv('t.csv'); write.csv(x, 't.csv')"), ())
        self.assertEqual([CODE.clock(code) for code in ("format(Sys.Date())", "# Sys.time()\nx")], ["Sys.Date()", ""])

    def test_values_as_code(self) -> None:
        values = (None, True, 3, 2**40, 1.5, 'a "b"', datetime.date(2024, 2, 29), [1, 2])
        self.assertEqual(
            " ".join(map(CODE.literal, values)),
            'NULL TRUE 3L 1099511627776.0 1.5 "a \\"b\\"" as.Date("2024-02-29") c(1L, 2L)',
        )


class Streams(unittest.TestCase):
    @given(PLAIN)
    def test_what_is_sent_is_what_is_read(self, value: object) -> None:
        self.assertEqual(plain(read(packed(value))), _as_told(value))

    @given(st.binary(max_size=60), st.integers(0, 200))
    def test_damaged_streams_are_told(self, noise: bytes, at: int) -> None:
        whole = packed({"a": [1, 2.5, "x"], "b": {"c": None}})
        for data in (whole[: at % len(whole)], whole[:at] + noise, noise):
            try:
                read(data)
            except (ValueError, UnicodeDecodeError):
                continue
            except RecursionError:
                self.fail("it went too deep")

    def test_answers_figures_and_marks(self) -> None:
        self.assertEqual(answer({"type": "whole", "value": 3.0, "form": "03d"}), {"type": "text", "value": "003"})
        self.assertEqual(answer({"type": "missing"}), {"type": "missing", "value": None})
        item = {"format": "svg", "width": 1, "height": 2}
        self.assertEqual(figure(item, b"surface12 surface7 surface12")[1], b"surface1 surface2 surface1")
        self.assertEqual(
            marks_in("a {= x + 1 as '.2f'} \\{= no} {= y}"),
            [{"expression": "x + 1", "form": ".2f"}, {"expression": "y", "form": ""}],
        )


def _as_told(value: Any) -> object:
    """As R has no single values: a list with one item is that item where it is no list of R's."""
    if isinstance(value, list):
        return [_as_told(one) for one in value]
    return {name: _as_told(one) for name, one in value.items()} if isinstance(value, dict) else value


@unittest.skipUnless(shutil.which("R"), "R is not installed")
class Fingerprints(unittest.TestCase):
    def test_equal_values_have_equal_prints_however_they_came_about(self) -> None:
        """Functions that were compiled, promises that were kept, values that were loaded again."""
        script = """
        say <- function(x) writeLines(paste(as.character(serialize(x, NULL, xdr = FALSE, version = 2)), collapse = ""))
        make <- list(function() function(x) { y <- x; for (i in 1:3) y <- y + i; y }, function() ecdf(c(3, 1, 2)), function() local({ k <- 2; function(z) z + k }),
          function() { e <- new.env(); e$b <- 1; e$a <- 2; e }, function() lm(dist ~ speed, cars), function() quote(f(x, y = "t")), function() splinefun(1:4, c(1, 4, 9, 16)))
        use <- list(function(f) for (i in 1:4) f(i), function(f) for (i in 1:4) f(i), function(f) for (i in 1:4) f(i), function(e) e$a, summary, identity, function(f) f(2.5))
        for (at in seq_along(make)) { x <- make[[at]](); say(x); use[[at]](x); say(x); say(unserialize(serialize(x, NULL))) }
        say(function(x) x + 2); say(function(x) x + 3)
        """
        done = subprocess.run(["Rscript", "--vanilla", "-e", script], capture_output=True, text=True, check=True)
        prints = [normal(bytes.fromhex(line)).print for line in done.stdout.split()]
        for at in range(0, 21, 3):
            self.assertEqual(len(set(prints[at : at + 3])), 1, f"value {at // 3}")
        self.assertEqual(len(set(prints)), 9)


@unittest.skipUnless(shutil.which("R"), "R is not installed")
class Sessions(unittest.TestCase):
    def setUp(self) -> None:
        place = TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.session = RSession()
        self.addCleanup(self.session.close)
        self.session.open(Environment(Path(place.name), "p.md", {"n": 3}, f"{place.name}/blobs"))

    def run_(self, label: str, code: str) -> Any:
        return self.session.run(ChunkTask(label, code, 1, None, version=label), Position())

    def test_what_a_chunk_reads_and_writes(self) -> None:
        self.run_("a", "x <- 1; f <- function(v) v + x; e <- new.env(); e$n <- 1; h <- list(e)")
        found = self.run_("b", "y <- f(2); given$n").found
        self.assertEqual((found.reads, set(found.names), found.given), (("f", "x"), {"y"}, ("n",)))
        self.assertIn("v", found.words)
        held = self.run_("c", "h[[1]]$n <- 2").found
        self.assertEqual((set(held.names), held.names["e"].group, set(held.sharing)), ({"e", "h"}, ("e", "h"), {"e"}))
        gone = self.run_("d", "rm(y); options(digits = 4); library(MASS); Sys.setenv(A = '1'); runif(1)").found
        self.assertEqual((gone.deleted, gone.seed), (("y",), True))
        self.assertEqual(set(gone.ambient), {"options", "packages", "env:A"})
        self.assertIn("classes", self.run_("e", "setClass('P', representation(v = 'numeric'))").found.effects)

    def test_locks_and_what_is_made_anew_are_part_of_a_value(self) -> None:
        """Of names in environments: a chunk that changes nothing else has changed the value."""
        self.run_("a", "e <- new.env(); e$v <- 1; h <- list(e)")
        for number, code in enumerate(
            (
                "lockBinding('v', e)",
                "unlockBinding('v', h[[1]])",
                "makeActiveBinding('w', function() 3, e)",
                "lockEnvironment(e)",
            )
        ):
            with self.subTest(code):
                self.assertLessEqual({"e"}, set(self.run_(f"b{number}", code).found.names))
        self.assertEqual(self.run_("c", "e$v + e$w").found.names, {})

    def test_where_it_stands_packages_are_those_of_the_place_and_no_others(self) -> None:
        first = self.run_("a", "library(MASS)").found.ambient
        self.run_("b", "library(survival); detach('package:MASS')")
        seen = self.session.run(ChunkTask("c", "cat(search()[2:3])", 1, None, version="c"), Position(ambient=first))
        self.assertEqual([getattr(one, "text", "") for one in seen.result.shown], ["package:MASS worn"])
        bare = self.session.run(ChunkTask("d", "cat(search()[2])", 1, None, version="d"), Position())
        self.assertEqual([getattr(one, "text", "") for one in bare.result.shown], ["worn"])

    def test_a_pointer_that_a_reader_leaves_is_none_of_the_value(self) -> None:
        found = self.run_("a", "d <- data.frame(x = 1:3); attr(d, 'problems') <- methods::new('externalptr'); e <- d[1:2, , drop = FALSE]; p <- methods::new('externalptr')").found  # fmt: skip
        self.assertEqual([found.names[name].provider.live for name in "dep"], [False, False, True])
        self.assertEqual(found.names["d"].group, ())
        self.assertEqual(self.run_("b", "sum(d$x)").found.names, {})

    def test_marks_only_look(self) -> None:
        self.run_("a", "x <- c(1, 2); n <- 0; up <- function() { n <<- n + 1; n }")
        found = self.session.answer(
            [MarkTask("p:1", "sum(x)", ".1f"), MarkTask("p:2", "up()"), MarkTask("p:3", "nope")], Position()
        ).answered
        self.assertEqual((found[0].answer.value, found[0].found.changed), ("3.0", ""))
        self.assertEqual(found[1].found.changed, "n")
        self.assertEqual((found[2].answer.failure.name, found[2].answer.failure.missing), ("nope", "name"))  # type: ignore[union-attr]

    def test_connections_that_are_all_closed_and_streams_that_are_sunk(self) -> None:
        ran = self.run_("a", "closeAllConnections(); cat('on\\n'); sink(tempfile()); cat('lost\\n')")
        self.assertEqual([getattr(one, "text", "") for one in ran.result.shown], ["on\n"])
        self.assertEqual(
            [getattr(one, "text", "") for one in self.run_("b", "cat('seen\\n')").result.shown], ["seen\n"]
        )
