"""Rows of table files: what is in the cells, and the line each row stands in."""

import json
import unittest

from hypothesis import given
from hypothesis import strategies as st

from tests.support import FolderCase
from wornpage.choices.naming import safe_name, unlike
from wornpage.choices.tables import TableFault, _lines_of_items, plain_row, rows_of


class Tables(FolderCase):
    def rows(self, name: str, text: str | bytes) -> list[tuple[int, dict[str, object]]]:
        path = self.folder / name
        path.write_bytes(text if isinstance(text, bytes) else text.encode())
        return rows_of(path)

    def test_rows_know_their_lines(self) -> None:
        expected = [
            (2, {"branch": "Quay", "year": "2024"}),
            (5, {"branch": "Mill\nNorth", "year": "2025"}),
            (6, {"branch": "Harrow"}),
        ]
        self.assertEqual(self.rows("t.csv", 'branch,year\nQuay,2024\n\n"Mill\nNorth",2025\nHarrow,\n,\n'), expected)
        self.assertEqual(self.rows("t.tsv", "a\tb\n1\t2, 3\n"), [(2, {"a": "1", "b": "2, 3"})])
        self.assertEqual(self.rows("b.csv", b"\xef\xbb\xbfa;b\n1;2\n"), [(2, {"a": "1", "b": "2"})])
        text = '\n[ {"a": 1},\n\n  {"a":\n 2, "b": null}, {"a": [true, 1.0], "c": NaN}\n]\n'
        self.assertEqual(self.rows("t.json", text), [(2, {"a": "1"}), (4, {"a": "2"}), (5, {"a": ["yes", "1"]})])

    @given(
        st.lists(
            st.dictionaries(st.text(max_size=3), st.integers() | st.text(max_size=3) | st.none(), max_size=3),
            max_size=5,
        ),
        st.sampled_from([None, 1, 2]),
    )
    def test_items_of_a_list_are_found_where_they_begin(
        self, items: list[dict[str, object]], indent: int | None
    ) -> None:
        text = json.dumps(items, indent=indent)
        lines = list(_lines_of_items(text))
        self.assertEqual(len(lines), len(items))
        whole = text.split("\n")
        for line in lines:
            self.assertTrue(line == 1 if indent is None else whole[line - 1].strip().startswith("{"))

    def test_what_is_no_table_is_told_with_its_line(self) -> None:
        for name, text, line, what in (
            ("t.csv", "a,b\n1,2\n1,2,3\n", 3, "more cells"), ("t.csv", "a,a\n1,2\n", 1, "a"), ("t.json", "{}", 0, "no list"), ("t.json", "[\n{]", 2, "no JSON"),
            ("t.json", "[1]", 0, "no list"), ("t.txt", "a", 0, "no table of a known kind"), ("t.csv", b"a\n\xff\n", 0, "UTF-8"), ("t.xlsx", b"PK no", 0, "no Excel"),
        ):  # fmt: skip
            with self.subTest(name=name, text=text), self.assertRaises(TableFault) as caught:
                self.rows(name, text)
            self.assertEqual(caught.exception.line, line)
            self.assertIn(what, caught.exception.what)
        with self.assertRaisesRegex(TableFault, "cannot be read"):
            rows_of(self.folder / "none.csv")

    def test_sheets_of_excel(self) -> None:
        from datetime import datetime

        from openpyxl import Workbook

        book = Workbook()
        for row in (
            ("branch", None, "day", "n"),
            ("Quay", "left out", datetime(2024, 2, 29), 3.0),
            (None, None, None, None),
            ("Mill", None, datetime(2024, 1, 1, 12), True),
        ):
            book.active.append(row)
        book.save(self.folder / "t.xlsx")
        self.assertEqual(
            rows_of(self.folder / "t.xlsx"),
            [
                (2, {"branch": "Quay", "day": "2024-02-29", "n": "3"}),
                (4, {"branch": "Mill", "day": "2024-01-01 12:00:00", "n": "yes"}),
            ],
        )


class Names(unittest.TestCase):
    @given(st.lists(st.text(max_size=200), max_size=8))
    def test_names_are_fit_for_every_file_system_and_unlike(self, texts: list[str]) -> None:
        taken: set[str] = set()
        names = [unlike(safe_name(text), taken) for text in texts]
        self.assertEqual(len({name.casefold() for name in names}), len(texts))
        for name in names:
            self.assertNotRegex(name, r'[\x00-\x1f<>:"/\\|?*]|^[. ]|[. ]$')
            self.assertLessEqual(len(name.encode("utf-8", "replace")), 130)
            self.assertNotIn(name.lower().split(".")[0], {"con", "nul", "index", "", "aux"})

    def test_values_as_they_would_be_written(self) -> None:
        self.assertEqual(
            plain_row({"a": 1.5, "b": 2.0, "c": False, "d": float("nan"), 3: "x"}),
            {"a": "1.5", "b": "2", "c": "no", "3": "x"},
        )


if __name__ == "__main__":
    unittest.main()
