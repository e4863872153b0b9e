"""Which editions there are, what they are called, and what is said of declarations that make no sense."""

from __future__ import annotations

import json
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook

from tests.support import FolderCase
from wornpage.choices.naming import safe_name, unlike
from wornpage.editions.pressing import Choice, counted
from wornpage.tree.problem import PageError, UsageError

GIVEN = """
given:
  branch: {default: Quayside, one-of: [Quayside, Millpond, Northgate]}
  year: {default: 2025, from: 2000, to: 2030}
"""


class Sets(FolderCase):
    def found(
        self, editions: str, patterns: tuple[str, ...] = (), where: tuple[str, ...] = (), code: str = ""
    ) -> list[tuple[str, str, int]]:
        """Name, branch and year of each edition that is chosen."""
        text = f"---{GIVEN}editions:\n{editions}\n---\n\n{code}\n"
        page = self.write("page.md", text)
        chosen = counted(Choice(page, patterns=patterns, where=where)).chosen
        return [(one.name, one.values["branch"], one.values["year"]) for one in chosen]

    def faults(self, editions: str) -> str:  # type: ignore[override]
        """What is wrong, in words."""
        with self.assertRaises(PageError) as caught:
            self.found(editions)
        return str(caught.exception)

    def test_lists_and_combinations(self) -> None:
        self.assertEqual(
            self.found("  sets: [{branch: Millpond}, {branch: Northgate, year: 2024}]"),
            [("Millpond", "Millpond", 2025), ("Northgate-2024", "Northgate", 2024)],
        )
        combined = self.found(
            "  combine: {branch: [Quayside, Millpond], year: [2023, 2024]}\n  where: given.year > 2023 or given.branch == 'Quayside'"
        )
        self.assertEqual([name for name, _, _ in combined], ["Quayside-2023", "Quayside-2024", "Millpond-2024"])

    def test_tables_of_every_kind_give_the_same(self) -> None:
        rows = [
            {"branch": "Quayside", "year": 2024, "keeper": "x"},
            {"branch": "Millpond", "year": 2023, "keeper": None},
        ]
        self.write("t.csv", "\ufeffbranch;year;keeper\nQuayside;2024;x\nMillpond;2023;\n")
        self.write("t.tsv", "branch\tyear\nQuayside\t2024\nMillpond\t2023\n\n")
        self.write("t.json", json.dumps(rows))
        book = Workbook()
        book.active.append(["branch", "year", "keeper"])
        for row in rows:
            book.active.append(list(row.values()))
        book.save(self.folder / "t.xlsx")
        for ending in ("csv", "tsv", "json", "xlsx"):
            with self.subTest(ending):
                expected = [("Quayside-2024", "Quayside", 2024), ("Millpond-2023", "Millpond", 2023)]
                self.assertEqual(self.found(f"  table: t.{ending}"), expected)

    def test_an_expression_over_what_the_page_has_loaded(self) -> None:
        code = "```python run\nyears = [2021, 2022]\n```\n\n```python run\n1 / 0\n```"
        found = self.found('  expression: "[{\'year\': y} for y in years]"\n  name: "no {= given.year}"', code=code)
        self.assertEqual([name for name, _, _ in found], ["no 2021", "no 2022"])

    def test_names_and_conditions_choose(self) -> None:
        sets = "  combine: {branch: [Quayside, Millpond], year: [2023, 2024]}"
        self.assertEqual([n for n, _, _ in self.found(sets, patterns=("Quay*",))], ["Quayside-2023", "Quayside-2024"])
        self.assertEqual(
            [n for n, _, _ in self.found(sets, where=("year >= 2024", "branch != 'Quayside'"))], ["Millpond-2024"]
        )
        for choice in ({"patterns": ("Quay",)}, {"where": ("yaer > 1",)}):
            with self.assertRaises(UsageError):
                self.found(sets, **choice)  # type: ignore[arg-type]

    def test_two_of_one_name_are_told_apart(self) -> None:
        names = [n for n, _, _ in self.found('  sets: [{year: 2020}, {year: 2021}]\n  name: "{= given.branch}"')]
        self.assertEqual(names, ["Quayside", "Quayside-2"])

    def test_everything_wrong_is_told_at_once_and_where(self) -> None:
        self.write("t.csv", "branch,year\nQuayside,2024\nMilpond,1850\nQuayside,soon\n")
        said = self.faults("  table: t.csv")
        self.assertIn("t.csv:3", said)
        self.assertIn("'Millpond'", said)
        self.assertIn("t.csv:4", said)
        self.write("u.csv", "place\nQuayside\n")
        self.assertIn("place", self.faults("  table: u.csv"))
        self.assertIn("page.md:", self.faults("  table: none.csv"))
        self.assertIn("'year'", self.faults("  sets: [{yaer: 2020}]"))
        self.assertIn("`editions:`", self.faults("  where: given.year > 1"))
        years = ", ".join(map(str, range(2000, 2400)))
        self.assertIn(
            "combine to 160,000",
            self.faults(f"  combine: {{year: [{years}], branch: [{', '.join(['Quayside'] * 400)}]}}"),
        )
        self.assertIn("NameError", self.faults("  expression: '[y for y in years]'"))

    def test_tables_that_cannot_be_what_is_meant(self) -> None:
        for text, words in (
            ("branch,year,branch\nQuayside,2024,Millpond\n", "u.csv:1:1: two columns are called 'branch'"),
            ("\n\nyear\n2024,1\n", "u.csv:4:1: this row has more cells"),
            ('branch\n"Quayside\n', "this is no CSV"),
        ):
            with self.subTest(text):
                self.write("u.csv", text.encode())
                self.assertIn(words, self.faults("  table: u.csv"))
        self.write("u.csv", b"\n \nbranch;year\nQuayside;2024\n")
        self.assertEqual(self.found("  table: u.csv"), [("Quayside-2024", "Quayside", 2024)])

    def test_names_that_cannot_be_made_are_told_in_words(self) -> None:
        for name, words in (
            ("{= year as '.2q'}", "does not fit 2020"),
            ("{= branch as words}", "wants a number"),
            ("{= yaer}", "no given value 'yaer'"),
            ("{= year", "is never closed"),
        ):
            with self.subTest(name):
                self.assertIn(words, self.faults(f'  sets: [{{year: 2020}}]\n  name: "{name}"'))


class Names(unittest.TestCase):
    @given(st.lists(st.text(max_size=200), max_size=12))
    def test_a_name_never_leaves_its_folder_nor_meets_another(self, texts: list[str]) -> None:
        taken: set[str] = set()
        with TemporaryDirectory() as place:
            folder = Path(place).resolve()
            names = [unlike(safe_name(text), taken) for text in texts]
            for name in names:
                target = folder / f"{name}.html"
                self.assertEqual(target.resolve().parent, folder)
                target.write_text(name)
            self.assertEqual(len(set(map(str.casefold, names))), len(texts))
            self.assertNotIn("index", {name.casefold() for name in names})

    def test_a_cell_with_a_whole_book_in_it_is_soon_named(self) -> None:
        self.assertEqual(safe_name("ü" * 2_000_000), "ü" * 60)
