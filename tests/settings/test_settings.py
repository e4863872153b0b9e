"""Settings: levels, and every fault with its place."""

import json
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from wornpage.settings import Settings, settle
from wornpage.settings.texts import Memory
from wornpage.settings.yaml_text import read_yaml
from wornpage.source import parse_page
from wornpage.tree.problem import Problem


def settled(text: str) -> tuple[Settings, list[Problem]]:
    return settle(parse_page(text, Path("page.md"), "page.md"))


class Yaml(unittest.TestCase):
    """YAML 1.2 as people write it."""

    def test_words_and_times_stay_text(self) -> None:
        yaml = read_yaml("a: NO\nb: 12:30\nc: 2026-03-01\nd: 0x1F\ne: true\nf: ~\ng: 1.5\n", "p")
        self.assertEqual(
            yaml.data, {"a": "NO", "b": "12:30", "c": "2026-03-01", "d": 31, "e": True, "f": None, "g": 1.5}
        )

    def test_faults_have_their_place_and_a_way_out(self) -> None:
        cases = {
            "title: a: b": (1, 8, 'title: "a: b"'),
            "title: {= x}": (1, 8, 'title: "{= x}"'),
            "title: Report #3": (1, 8, 'title: "Report #3"'),
            "title: @home": (1, 8, 'title: "@home"'),
            "a:\n\tb: 1": (2, 1, "spaces"),
            'a: "open\nb: 1': (1, 4, "Close"),
            "a: 1\n   b: 2": (2, 5, "same column|one level"),
            "title:x": (1, 7, "title: x"),
            "a: 1\na: 2": (2, 1, "Keep one"),
        }
        for text, (line, column, hint) in cases.items():
            with self.subTest(text):
                (problem,) = read_yaml(text, "p").problems
                self.assertEqual((problem.span.line, problem.span.column), (line, column))
                self.assertRegex(problem.hint, hint)

    def test_block_texts_may_hold_anything(self) -> None:
        self.assertEqual(read_yaml("a: |\n  {= x} #1 b: c\n", "p").data, {"a": "{= x} #1 b: c\n"})


class Levels(unittest.TestCase):
    """The nearer level wins."""

    def test_each_value_knows_its_level(self) -> None:
        text = (
            "---\nchunks:\n  all: {show: output, dpi: 100, notices: no}\n  a: {dpi: 150, tuck: yes}\n---\n\n"
            "```python run #a show=source\n```\n\n```python run #b\n```\n"
        )
        settings, problems = settled(text)
        self.assertEqual(problems, [])
        a, b = settings.chunks["a"], settings.chunks["b"]
        self.assertEqual(
            (a.options.show, a.options.dpi, a.options.tuck, a.options.notices), ("source", 150, True, False)
        )
        self.assertEqual(
            (a.levels["show"], a.levels["dpi"], a.levels["notices"]), ("header", "chunks: a", "chunks: all")
        )
        self.assertEqual((b.options.show, b.options.dpi, b.levels["width"]), ("output", 100, "built in"))

    def test_lengths_times_and_lines_have_units(self) -> None:
        settings, _ = settled("```python run #a width=4in height=80mm timeout=2min pick-out=3,7-9 scale=50%\n```\n")
        options = settings.chunks["a"].options
        self.assertAlmostEqual(options.width or 0, 10.16)
        self.assertEqual(
            (options.height, options.timeout, options.pick_out, options.scale), (8.0, 120.0, ((3, 7, 8, 9),), 0.5)
        )

    def test_all_faults_are_told_at_once_with_near_misses(self) -> None:
        text = (
            "---\ntitel: x\nauthors: [{nam: A}]\npress: {pdf: {paper: b5}}\nchunks:\n  all: {shw: output, width: 16}\n"
            "  lod: {dpi: 100}\n---\n\n```python run #load shw=all pick-out=x\n```\n"
        )
        _, problems = settled(text)
        found = sorted((p.span.line, p.span.column, p.hint) for p in problems)
        places = [(2, 1), (3, 11), (3, 12), (4, 22), (6, 9), (6, 29), (7, 3), (10, 21), (10, 29)]
        self.assertEqual([place[:2] for place in found], places)
        hints = " ".join(hint for *_, hint in found)
        for word in ("'title'", "'name'", "a4", "16cm", "'load'", "'show'", "3,7-9"):
            self.assertIn(word, hints)

    def test_front_matter_that_is_no_mapping_is_a_fault(self) -> None:
        _, (problem,) = settled("---\n- a\n---\n")
        self.assertIn("mapping", problem.what)


class Project(unittest.TestCase):
    """The level of `worn.yaml`, and what is remembered."""

    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)
        (self.folder / "reports").mkdir()

    def settled(self, project: str, page: str, memory: Memory | None = None) -> tuple[Settings, list[Problem]]:
        (self.folder / "worn.yaml").write_text(project, encoding="utf-8")
        return settle(parse_page(page, self.folder / "reports/page.md", "page.md"), memory)

    def test_a_page_is_nearer_than_its_project_setting_by_setting(self) -> None:
        settings, problems = self.settled(
            "language: de\nseed: 4\npress: {html: {contents: above}, pdf: {fonts: type, paper: letter}}\n"
            "bibliography: [library.bib]\nchunks: {all: {dpi: 90, show: source}}\n",
            "---\nlanguage: fr\npress: {pdf: {paper: a4}}\nchunks: {all: {show: output}}\n---\n\n```python run #a\n```\n",
        )
        self.assertEqual(problems, [])
        page = settings.page
        self.assertEqual((page.language, page.seed, page.press.html.contents), ("fr", 4, "above"))
        self.assertEqual((page.press.pdf.paper, page.press.pdf.fonts), ("a4", ("../type",)))
        self.assertEqual(page.bibliography, ("../library.bib",))
        levels = settings.chunks["a"].levels
        self.assertEqual((levels["dpi"], levels["show"], levels["alt"]), ("worn.yaml", "chunks: all", "built in"))
        self.assertEqual(
            [settings.levels.get(name) for name in ("seed", "press.pdf.paper", "press.pdf.fonts", "title")],
            ["worn.yaml", "front matter", "worn.yaml", None],
        )

    def test_faults_of_the_project_lie_in_its_own_file(self) -> None:
        _, problems = self.settled("langage: de\nchunks:\n  load: {dpi: 90}\n", "---\nsed: 1\n---\n")
        found = sorted((Path(p.span.file).name, p.span.line, p.span.column) for p in problems)
        self.assertEqual(found, [("page.md", 2, 1), ("worn.yaml", 1, 1), ("worn.yaml", 3, 3)])

    def test_what_was_right_before_is_not_checked_again_and_means_the_same(self) -> None:
        project = "authors: [Ada Quill]\nchunks: {all: {width: 10cm}}\n"
        page = "---\ntitle: T\n---\n\nMore prose.\n\n```python run #a pick-out=1-2 timeout=2min\n```\n"
        memory = Kept()
        first = self.settled(project, page, memory)
        with mock.patch.dict(sys.modules, {"wornpage.settings.checking": None}):  # it cannot be imported
            again = self.settled(project, page.replace("More", "Other"), memory)
        self.assertEqual(again, first)
        self.assertEqual(self.settled(project, page), first)


class Kept(dict[tuple[str, ...], Any]):
    """A memory that holds what could be written as JSON, as the real one does."""

    def get(self, *key: str) -> Any:  # type: ignore[override]
        return json.loads(self[key]) if key in self else None

    def put(self, value: Any, *key: str) -> None:
        self[key] = json.dumps(value)
