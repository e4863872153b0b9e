"""Tables from data laid out in words: decimals, forms, heads in levels, groups, notes."""

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from wornpage.compose.language import language_of
from wornpage.compose.tables import lay_out
from wornpage.compose.values import FormFault
from wornpage.tree import nodes as n
from wornpage.tree.span import Span
from wornpage.tree.table import Cell, Column, Group, Kind, Note, TableData, Told, Value
from wornpage.tree.walk import words_of

SPAN = Span("page.md", 1)
MINUS = "\u2212"


def laid(*columns: Column, decimals: int | None = None, language: str = "en", **more: Any) -> n.TextTable:
    data = TableData(columns, **more)
    return lay_out(
        data, decimals, language_of(language), SPAN, lambda told: (n.Emphasis(SPAN, (n.Text(SPAN, told.text),)),)
    )


def said(
    *cells: Cell, kind: Kind = Kind.NUMBER, decimals: int | None = None, language: str = "en", **looks: Any
) -> list[str]:
    """The words of one column."""
    table = laid(Column(("x",), kind, cells, **looks), decimals=decimals, language=language)
    return [words_of(row[0]) for row in table.rows]


class Numbers(unittest.TestCase):
    """A column shows the digits that its values have."""

    def test_one_number_of_places_a_column(self) -> None:
        for cells, expected in (
            ((1.5, 2.0, 10.25), ["1.50", "2.00", "10.25"]),
            ((1.0, 2.0), ["1", "2"]),
            ((3, 2.5), ["3", "2.5"]),
            ((0.49, 350000.99), ["0.49", "350000.99"]),
            ((-1.5, None, float("nan"), float("inf")), [f"{MINUS}1.5", "–", "–", "∞"]),
            ((1 / 3, 200.0), ["0.333", "200.000"]),
            ((0.1 + 0.2, 0.5), ["0.3", "0.5"]),
            ((10**400, 1), [str(10**400), "1"]),
            ((float("-inf"), 1e300, 1.5), [f"{MINUS}∞", "1\u202f×\u202f10³⁰⁰", "1.5"]),
            ((1e300,), ["1\u202f×\u202f10³⁰⁰"]),
        ):  # fmt: skip
            with self.subTest(cells=cells):
                self.assertEqual(said(*cells), expected)

    def test_asked_places_and_forms(self) -> None:
        self.assertEqual(said(1.25, 3, decimals=1), ["1.2", "3"])
        self.assertEqual(said(1.25, 3.5, decimals=1, language="de"), ["1,2", "3,5"])
        self.assertEqual(said(0.125, None, form="percent"), ["12.5%", "–"])
        self.assertEqual(said(1234.5, 2, form='",.2f"'), ["1,234.50", "2.00"])
        self.assertEqual(said(0.04, 0.0001, form="p-value"), ["0.040", "<\u00a00.001"])
        with self.assertRaisesRegex(FormFault, "cannot be used for numbers"):
            said(1.0, form="'%Y'")

    def test_decimal_fractions_keep_every_digit_until_others_are_asked_for(self) -> None:
        long = "-1234567890123456789.125"
        self.assertEqual(said("3.456", long, None), ["3.456", f"{MINUS}1234567890123456789.125", "–"])
        self.assertEqual(said("3.456", long, decimals=2), ["3.46", f"{MINUS}1234567890123456789.12"])
        self.assertEqual(said("0.125", form="percent"), ["12.5%"])

    @given(st.lists(st.floats(-1e12, 1e12, allow_nan=False).map(lambda value: round(value, 4)), min_size=1, max_size=8))
    def test_numbers_that_someone_wrote_are_shown_as_they_are(self, values: list[float]) -> None:
        shown = said(*values)
        for text, value in zip(shown, values, strict=True):
            if "×" not in text:
                self.assertAlmostEqual(float(text.replace(MINUS, "-")), value, delta=abs(value) * 1e-11)

    def test_rounded_numbers_tell_all_their_digits_to_who_looks_closer(self) -> None:
        (row,) = laid(Column(("x",), Kind.NUMBER, (1 / 3,))).rows
        (node,) = row[0]
        assert isinstance(node, n.Answered)
        self.assertEqual(node.exact, repr(1 / 3))
        self.assertIsInstance(laid(Column(("x",), Kind.NUMBER, (0.5,))).rows[0][0][0], n.Text)

    def test_cells_with_looks_of_their_own(self) -> None:
        cells = (
            Value(1.5, low=1.0, high=2.0, marks="**"), Value(0.25, brackets=True, decimals=3), Value(2.0, beside=Value(0.5)),
            Value(None, low=0.5, high=1.5), Value(Told("none")), 7.25,
        )  # fmt: skip
        self.assertEqual(said(*cells), ["1.50 [1.00, 2.00]", "(0.250)", "2.00 (0.50)", "[0.50, 1.50]", "none", "7.25"])
        self.assertEqual(said(Value(1.5, low=1.0, high=2.0), language="fr"), ["1,5 [1,0; 2,0]"])


class Others(unittest.TestCase):
    """Texts, dates and truths."""

    def test_dates_and_times(self) -> None:
        date = Kind.DATE
        self.assertEqual(said("2024-02-29", None, "no date", kind=date), ["29 February 2024", "–", "no date"])
        self.assertEqual(said("2024-02-29 13:45:00", "2024-03-01 00:00:00", kind=date)[1], "1 March 2024, 00:00")
        self.assertEqual(said("2024-02-29 13:45:10", "2024-03-01 00:00:00", kind=date)[1], "1 March 2024, 00:00:00")
        self.assertEqual(said("2024-03-01", kind=date, form="'%B %Y'", language="de"), ["März 2024"])

    def test_truths_and_texts(self) -> None:
        self.assertEqual(said(True, False, None, kind=Kind.TRUTH, language="fr"), ["oui", "non", "–"])
        self.assertEqual(said("1.50", "*x*", kind=Kind.TEXT), ["1.50", "*x*"])


class Whole(unittest.TestCase):
    """Heads, rows and notes."""

    def test_equal_heads_above_the_lowest_level_are_one(self) -> None:
        a, b = Told("*A*"), "B"
        columns = [
            Column(("", "room"), Kind.TEXT, ("x",), is_index=True), Column((a, "low"), Kind.NUMBER, (1,)),
            Column((a, "high"), Kind.NUMBER, (2,), marks="a"), Column((b, "low"), Kind.NUMBER, (3,)), Column((a, "low"), Kind.NUMBER, (4,)),
        ]  # fmt: skip
        table = laid(*columns)
        self.assertEqual(
            [(words_of(cell.text), cell.span) for cell in table.heads[0]], [("", 1), ("*A*", 2), ("B", 1), ("*A*", 1)]
        )
        self.assertEqual([words_of(cell.text) for cell in table.heads[1]], ["room", "low", "high", "low", "low"])
        self.assertEqual((table.index_columns, table.aligns), (1, ("left", "right", "right", "right", "right")))

    def test_groups_sums_and_continued_rows_keep_their_places(self) -> None:
        table = laid(
            Column(("n",), Kind.NUMBER, (1, 2, 3, 6)), groups=(Group(0, "Quay"), Group(2, "Mill")), foot=1, continued=(1,),
            left_out=1200, notes=(Note(Told("So."), "a"),),
        )  # fmt: skip
        self.assertEqual(list(table.kinds), ["group", "", "continued", "group", "", "foot"])
        self.assertEqual([words_of(row[0]) for row in table.rows], ["Quay", "1", "2", "Mill", "3", "6"])
        self.assertIn("1,200", table.note)
        self.assertEqual([(mark, words_of(words)) for mark, words in table.notes], [("a", "So.")])

    def test_a_table_without_columns_is_a_dash(self) -> None:
        self.assertEqual([words_of(cell) for row in laid().rows for cell in row], ["–"])


if __name__ == "__main__":
    unittest.main()
