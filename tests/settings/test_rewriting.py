"""Defaults written into a page's front matter: the one value, and nothing else."""

from __future__ import annotations

import unittest
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from wornpage.settings import settle
from wornpage.settings.givens import as_written
from wornpage.settings.rewriting import with_default
from wornpage.source.reader import parse_page
from wornpage.tree.problem import UsageError

FRONT = """---
title: "The {= given.branch} room"   # a remark
given:
  branch: Quayside  # which
  year: {default: 2026, from: 2000}
  above:
    default: 60.5
    unit: "%"   # of the air
  all: yes
  day: 2026-03-01
  shelves: {type: list, default: [a, "b, c"]}
  code: "007"
  long:
    - x
    - y
  text: |
    several
    lines
  none: {type: text}
press: {html: {contents: none}}
---

given: branch: Quayside
"""


def page(text: str) -> object:
    """A page of this text."""
    return parse_page(text, Path("page.md"), "page.md")


class Defaults(unittest.TestCase):
    def changed(self, name: str, value: object, kind: str = "text") -> str:
        """The page with another default."""
        return with_default(page(FRONT), name, value, kind)  # type: ignore[arg-type]

    def test_one_value_is_another_and_all_else_as_it_was(self) -> None:
        wanted = [
            ("branch", "Harrow Lane", "text", "Quayside  # which", "Harrow Lane  # which"),
            ("year", "2027", "whole number", "default: 2026", "default: 2027"),
            ("above", "70", "number", "default: 60.5", "default: 70"),
            ("all", "no", "yes/no", "all: yes", "all: no"),
            ("day", "2026-04-01", "date", "day: 2026-03-01", "day: 2026-04-01"),
            ("shelves", ["b, c", "d"], "list", '[a, "b, c"]', '["b, c", d]'),
            ("code", "008", "text", '"007"', '"008"'),
        ]
        for name, value, kind, old, new in wanted:
            with self.subTest(name):
                made = self.changed(name, value, kind)
                self.assertEqual(made, FRONT.replace(old, new, 1))
                found, _ = settle(page(made))  # type: ignore[arg-type]
                self.assertEqual(as_written(found.declared[name].default), value)

    @given(st.text(st.characters(exclude_categories=("Cs", "Cc")), min_size=1, max_size=30))
    @settings(max_examples=150, deadline=None)
    def test_any_text_is_that_text_again(self, text: str) -> None:
        found, _ = settle(page(self.changed("branch", text)))  # type: ignore[arg-type]
        self.assertEqual((found.declared["branch"].kind, found.declared["branch"].default), ("text", text.strip()))
        self.assertEqual(found.page.title, "The {= given.branch} room")

    def test_what_stands_in_several_lines_is_left_to_its_author(self) -> None:
        for name in ("long", "text", "none", "nothing"):
            with self.subTest(name), self.assertRaises(UsageError):
                self.changed(name, "x")
