"""Failures in words: page lines, and what was probably meant; and text as a terminal would leave it."""

import unittest
from pathlib import Path
from unittest import mock

from wornpage.session.bindings import names_written
from wornpage.session.environment import FIXED, session_environment
from wornpage.session.failures import Places, chunk_problem, mark_problem, page_traceback
from wornpage.session.faults import crash_failure, timeout_failure
from wornpage.session.reading import Stream
from wornpage.session.results import (
    ChunkResult,
    Failure,
    Frame,
    Printed,
    Raised,
    ShownFigure,
    ShownHtml,
    ShownTable,
    ShownText,
    failure_from,
    failure_to_data,
    shown_from_data,
    shown_to_data,
)
from wornpage.source import parse_page
from wornpage.tree.span import Span
from wornpage.tree.table import Column, Kind, TableData

PAGE = parse_page(
    "# T\n\n```python run #one\ndef f():\n    return g()\n```\n\n```python run #two\n\nf()\n```\n\n```python run #three\nlate = 1\n```\n",
    Path("p.md"),
    "p.md",
)
CHUNKS = {chunk.label: chunk for chunk in PAGE.chunks}
PLACES = Places("p.md", CHUNKS)


def failed(kind: str, message: str, *frames: Frame, name: str = "", status: str = "") -> Failure:
    return Failure(kind, (Raised(kind, message, frames),), name, status)


class Words(unittest.TestCase):
    def test_the_place_is_the_innermost_line_of_the_chunk_itself(self) -> None:
        failure = failed(
            "ValueError",
            "no",
            Frame("chunk:two", 2, "<module>", "f()"),
            Frame("chunk:one", 2, "f", "return g()"),
            Frame("library:x/y.py", 9, "g", "raise"),
        )
        problem = chunk_problem(failure, CHUNKS["two"], PLACES)
        self.assertEqual((problem.span.line, problem.what), (10, "in chunk `two`: ValueError: no"))
        lines = page_traceback(failure, PLACES).split("\n")
        self.assertEqual(
            lines,
            ["p.md:10", "    f()", "p.md:5, in f", "    return g()", "x/y.py:9, in g", "    raise", "ValueError: no"],
        )

    def test_frames_of_libraries_between_are_left_out(self) -> None:
        frames = [
            Frame("chunk:two", 2, "<module>", "f()"),
            *(Frame(f"library:a/{i}.py", i, "m", "") for i in range(30)),
        ]
        self.assertEqual(page_traceback(failed("E", "m", *frames), PLACES).count("library"), 0)
        self.assertEqual(page_traceback(failed("E", "m", *frames), PLACES).count("a/"), 1)

    def test_what_was_probably_meant(self) -> None:
        cases = {
            "late": "`three` in line 13 defines 'late', further down",
            "np": "import numpy as np",
            "json": "import json",
            "ff": "Did you mean 'f'|No chunk",
            "zzzz": "starts empty",
        }
        for name, words in cases.items():
            problem = chunk_problem(
                failed("NameError", "x", Frame("chunk:two", 2, "<module>", ""), name=name), CHUNKS["two"], PLACES
            )
            self.assertRegex(problem.hint, words)
        problem = mark_problem(failed("NameError", "x", name="late"), "late", Span("p.md", 1, 4), PLACES)
        self.assertIn("further down", problem.hint)
        self.assertIn(
            "not installed",
            chunk_problem(failed("ModuleNotFoundError", "x", name="pandaz"), CHUNKS["two"], PLACES).hint,
        )
        self.assertIn("exit()", chunk_problem(failed("SystemExit", "3", status="3"), CHUNKS["two"], PLACES).what)

    def test_last_words_of_a_crash_become_frames(self) -> None:
        words = 'Fatal Python error: Segmentation fault\n\nCurrent thread:\n  File "chunk:two", line 2 in <module>\n  File "/x/driver.py", line 3 in run\n'
        failure = crash_failure("two", words, -11)
        self.assertEqual([(f.file, f.line) for f in failure.last.frames], [("chunk:two", 2)])
        self.assertIn("segmentation", failure.last.message)
        self.assertIn("status 7", crash_failure("two", "", 7).last.message)
        self.assertEqual(chunk_problem(timeout_failure("two", 1.5, None), CHUNKS["two"], PLACES).span.line, 9)

    def test_names_that_code_binds_at_its_top(self) -> None:
        code = "import a.b, c as d\nfrom e import f\ng = 1\nfor h in x:\n    i = 2\ndef j():\n    k = 3\nclass l: m = 4\nwith n as o: pass\n(p := 5)"
        self.assertEqual(names_written(code), set("adfghijlop"))
        self.assertEqual(names_written("x = ="), set())


class Streams(unittest.TestCase):
    def told(self, data: bytes) -> str:
        stream = Stream(b"<END>")
        stream.feed(data + b"<END>")
        return stream.take()[0].text

    def test_text_is_what_a_terminal_would_leave(self) -> None:
        cases = {
            b"1%\r50%\r100%\n": "100%\n", b"\x1b[31mred\x1b[0m\n": "red\n", b"a\r\nb": "a\nb", b"abc\rX": "Xbc", b"bell\x07": "bell\ufffd",
            b"<o at 0x7f8e12345678>": "<o>", b"at 0x10 is": "at 0x10 is", "ünï".encode(): "ünï", b"\xff": "\ufffd",
        }  # fmt: skip
        for data, wanted in cases.items():
            self.assertEqual(self.told(data), wanted)

    def test_the_environment_of_a_session_is_the_same_for_all(self) -> None:
        with mock.patch.dict("os.environ", {"LC_TIME": "xx", "LANG": "yy", "PYTHONHASHSEED": "7", "MINE": "kept"}):
            made = session_environment(3)
        self.assertEqual({key: made.get(key) for key in FIXED}, FIXED)
        self.assertEqual(
            (made.get("LC_TIME"), made.get("LANG"), made["MINE"], made["OMP_NUM_THREADS"]), (None, None, "kept", "3")
        )


class ToAndFro(unittest.TestCase):
    def test_what_was_shown_survives_being_kept(self) -> None:
        table = TableData(
            (Column(("a", "b"), Kind.NUMBER, (1, 2.5, None), True), Column(("", "c"), Kind.TEXT, ("x", None, "z"))), 4
        )
        shown = (
            Printed("t\n", "output", 2, 3),
            ShownText("v"),
            ShownFigure("svg", b"<svg/>", 1.5, 2.5, "alt"),
            ShownTable(table),
            ShownHtml("<b>", "b"),
        )
        kept: dict[str, bytes] = {}

        def put(data: bytes) -> str:
            kept[str(len(kept))] = data
            return str(len(kept) - 1)

        data = shown_to_data(shown, put)
        self.assertEqual(shown_from_data(data, kept.__getitem__), shown)
        with self.assertRaises(KeyError):
            shown_from_data(data, {}.__getitem__)

    def test_failures_survive_being_kept(self) -> None:
        failure = failed("NameError", "m", Frame("chunk:a", 3, "f", "code", 2), name="x", status="")
        told = failure_to_data(failure)
        assert told
        self.assertEqual(failure_from(told), failure)
        self.assertIsNone(failure_to_data(ChunkResult((), None, 0).failure))
