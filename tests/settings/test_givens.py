"""Given values: declared, chosen, and refused with what was allowed."""

import datetime
import json
import unittest
from pathlib import Path
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.support import FolderCase, worn
from wornpage.settings import Settings, settle
from wornpage.settings.givens import Declared, GivenFault
from wornpage.source import parse_page
from wornpage.tree.problem import Problem, UsageError


def settled(given_lines: str, wanted: dict[str, Any] | None = None) -> tuple[Settings, list[Problem]]:
    lines = "".join(f"  {line}\n" for line in given_lines.splitlines())
    return settle(parse_page(f"---\ngiven:\n{lines}---\n", Path("p.md"), "p.md"), None, wanted)


class Declaring(unittest.TestCase):
    """Types follow from what is written."""

    def test_types_are_inferred_from_plain_values_and_raw_text_is_kept(self) -> None:
        settings, problems = settled(
            'a: 12\nb: 1.5\nc: yes\nd: 2026-03-01\ne: "12"\nf: 007\ng: [x, 1]\nh: NO way\ni: {type: text, default: 1e3}\n'
            "j: {from: 1, to: 3}\nk: {one-of: [u, v]}"
        )
        self.assertEqual(problems, [])
        self.assertEqual(
            settings.given,
            {"a": 12, "b": 1.5, "c": True, "d": datetime.date(2026, 3, 1), "e": "12", "f": "007", "g": ["x", "1"], "h": "NO way",
             "i": "1e3", "j": None, "k": None},
        )  # fmt: skip
        self.assertEqual([one.kind for one in settings.declared.values()][-2:], ["whole number", "text"])

    def test_faults_of_declarations_are_placed_and_named(self) -> None:
        cases = {
            "a: {defualt: 1}": ((3, 7), "'default'"), "a: {type: numbr}": ((3, 13), "'number'"), "a: {default: 9, to: 5}": ((3, 6), "to 5"),
            "1a: 2": ((3, 3), "letter"), "a: {default: x, one-of: [y]}": ((3, 6), "y"), "a: {one-of: {file: no.csv, column: c}}": ((3, 6), ""),
            "a: {one-of: z}": ((3, 6), "one-of: [a, b]"),
        }  # fmt: skip
        for text, (place, hint) in cases.items():
            with self.subTest(text):
                _, (problem,) = settled(text)
                self.assertEqual((problem.span.line, problem.span.column), place)
                self.assertIn(hint, problem.hint)

    def test_ranges_and_numbers_that_cannot_be_are_faults(self) -> None:
        for text, words in (
            ("a: {default: x, from: 1}", "`from` has no place here: this given is a text"),
            ("a: {default: yes, to: 2}", "this given is yes/no"),
            ("a: {default: 2026-01-01, step: 7}", "`step` has no place here"),
            ("a: {default: 5, from: 9, to: 1}", "nothing lies from 9 to 1"),
            ("a: {default: 5, step: -2}", "a step is more than 0"),
            ("a: {type: number, step: 0}", "a step is more than 0"),
            ("a: 1e999", "larger than any number"),
            (f"a: {'9' * 5_000}", "has 5,000"),
            (f"a: {{type: whole number, to: {'9' * 5_000}}}", "has 5,000"),
        ):
            with self.subTest(text[:60]):
                _, (problem, *_) = settled(text)
                self.assertIn(words, problem.what)
        self.assertEqual(settled("a: {default: 2026-01-05, from: 2026-01-01, to: 2026-02-01}")[1], [])

    def test_choices_are_checked_against_the_declaration(self) -> None:
        lines = "n: {default: 60, from: 40, to: 80, step: 5, unit: '%'}\nb: {default: Quay, one-of: [Quay, Mill]}\nd: 2026-01-01\nl: {type: list, one-of: [p, q]}\nr: {type: text, required: yes}"
        settings, _ = settled(lines, {"n": "55", "b": "Mill", "d": "2026-02-03", "l": ["p", "q"], "r": "x"})
        self.assertEqual(
            settings.given, {"n": 55, "b": "Mill", "d": datetime.date(2026, 2, 3), "l": ["p", "q"], "r": "x"}
        )
        self.assertEqual(settings.given_levels["n"], "command line")
        for name, value, words in (
            ("n", "57", "steps of 5: 55"), ("n", "85", "from 40 to 80 %"), ("n", "six", "no whole number"), ("b", "Mil", "'Mill'"),
            ("d", "soon", "2026-03-01"), ("l", "z", "p, q"), ("m", "1", "no given 'm'"), ("b", ["Quay", "Mill"], "one value"),
        ):  # fmt: skip
            with self.subTest(name, value=value), self.assertRaises(UsageError) as caught:
                settled(lines, {name: value, "r": "x"})
            self.assertIn(words, str(caught.exception))
        _, (missing,) = settled(lines)
        self.assertIn("r must be given", missing.what)

    @given(st.integers(-50, 50), st.integers(1, 9), st.integers(-60, 60))
    def test_a_value_is_taken_exactly_if_it_lies_on_a_step_between_the_ends(
        self, least: int, step: int, value: int
    ) -> None:
        one = Declared("n", "whole number", least=least, most=least + 7 * step, step=step)
        allowed = least <= value <= least + 7 * step and (value - least) % step == 0
        try:
            self.assertTrue(one.value(str(value)) == value and allowed)
        except GivenFault:
            self.assertFalse(allowed)


class Pressed(FolderCase):
    """Given values as a user meets them."""

    PAGE = (
        "---\ntitle: In {= given.branch}\ngiven:\n  branch: {default: Quay, one-of: {file: b.csv, column: branch}}\n  day: 2026-03-01\n---\n\n"
        '```python run #one\nprint("one", given.branch, given.day.year)\n```\n\n```python run #two when="given.branch == \'Mill\'"\nprint("two")\n```\n'
    )

    def test_only_readers_of_a_changed_value_run_and_the_plain_page_comes_back(self) -> None:
        self.write("b.csv", "branch\nQuay\nMill\nQuay\n")
        self.write("p.md", self.PAGE)

        def press(*options: str) -> tuple[str, dict[str, str]]:
            done = worn("press", "p.md", "--json", *options, folder=self.folder)
            self.assertEqual(done.returncode, 0, done.stderr)
            chunks = {chunk["label"]: chunk["outcome"] for chunk in json.loads(done.stdout)["chunks"]}
            return (self.folder / "p.html").read_text(encoding="utf-8"), chunks

        first, _ = press()
        mill, chunks = press("--given", "branch=Mill")
        self.assertIn("<title>In Mill</title>", mill)
        self.assertEqual(chunks, {"one": "ran", "two": "ran"})
        again, chunks = press()
        self.assertEqual((again, chunks["one"]), (first, "reused"))
        self.write("v.yaml", "branch: Mill\nday: 2025-01-01\n")
        self.assertIn("one Mill 2025", press("--given-from", "v.yaml")[0])
        self.write("worn.yaml", "given: {branch: Mill, unknown: 1}\n")
        self.assertIn("<title>In Mill</title>", press()[0])
        listed = worn("given", "p.md", folder=self.folder)
        self.assertRegex(listed.stdout, r"branch\s+text\s+Mill\s+worn.yaml\s+Quay, Mill")
        schema = json.loads(worn("given", "p.md", "--json", folder=self.folder).stdout)
        self.assertEqual(schema["properties"]["branch"]["enum"], ["Quay", "Mill"])
        self.assertEqual(schema["properties"]["day"]["format"], "date")
        wrong = worn("press", "p.md", "--given", "branch=Mil", folder=self.folder)
        self.assertEqual((wrong.returncode, "'Mill'" in wrong.stderr), (2, True))
