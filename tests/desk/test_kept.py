"""Sets of values under a name, in a file that people may also write."""

from __future__ import annotations

from unittest.mock import patch

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.support import FolderCase
from wornpage.desk.kept import NotKept, file_of, keep, kept_sets, take_away

TEXTS = st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=20)


class Kept(FolderCase):
    def test_what_is_kept_comes_back_in_order(self) -> None:
        page = self.folder / "report.md"
        first: dict[str, object] = {
            "branch": "Quayside: <b>",
            "all": "yes",
            "day": "2026-03-01",
            "n": "007",
            "list": ["a, b", "no"],
        }
        keep(page, "  Spring   report ", first)
        keep(page, "Autumn", {"branch": "null"})
        self.assertEqual(kept_sets(page), {"Spring report": first, "Autumn": {"branch": "null"}})
        keep(page, "Spring report", {"branch": "x"})
        take_away(page, "Autumn")
        take_away(page, "never there")
        self.assertEqual(kept_sets(page), {"Spring report": {"branch": "x"}})

    @given(
        st.dictionaries(st.from_regex(r"[a-z]{1,6}", fullmatch=True), TEXTS | st.lists(TEXTS, max_size=3), max_size=4)
    )
    @settings(max_examples=60, deadline=None)
    def test_any_values_come_back(self, given: dict[str, object]) -> None:
        page = self.folder / "any.md"
        keep(page, "set", given)
        self.assertEqual(kept_sets(page), {"set": given})

    def test_a_file_with_something_else_stays_as_it_is(self) -> None:
        page = self.folder / "report.md"
        for text in ("- a list\n", "a: [\n", "{a: b}\n", "\x00"):
            file_of(page).write_text(text)
            self.assertEqual(kept_sets(page), {})
            with self.assertRaises(NotKept):
                keep(page, "x", {})
            self.assertEqual(file_of(page).read_text(), text)

    def test_names_and_numbers_have_bounds(self) -> None:
        page = self.folder / "report.md"
        for name in ("", "   ", "x" * 81):
            with self.assertRaises(NotKept):
                keep(page, name, {})
        with patch("wornpage.desk.kept._MOST", 5), self.assertRaisesRegex(NotKept, "kept already"):
            for number in range(9):
                keep(page, str(number), {})
