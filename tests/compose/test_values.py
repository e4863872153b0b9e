"""Values in sentences and cells of tables."""

import unittest

from wornpage.compose.language import language_of
from wornpage.compose.tables import lay_out
from wornpage.compose.values import FormFault, write_value
from wornpage.session.results import Answer
from wornpage.tree.nodes import Superscript, Text
from wornpage.tree.span import Span
from wornpage.tree.table import Cell, Column, Group, Kind, Note, TableData, Told, Value
from wornpage.tree.walk import words_of

ENGLISH, GERMAN, FRENCH = (language_of(code) for code in ("en", "de", "fr"))
SPAN = Span("p", 1)


class Values(unittest.TestCase):
    """Forms and languages."""

    def test_forms(self) -> None:
        cases = [
            (1234567, "", "1234567"), (3.14159265, "", "3.14159"), (2.0, "", "2"), (1.5e-9, "", "1.5\u202f×\u202f10⁻⁹"),
            (-1.5, "", "\u22121.5"), (1234567, "thousands", "1,234,567"), (0.1234, "percent", "12.3%"), (2.005, "2 decimals", "2.00"),
            (0.0312, "p-value", "=\u00a00.031"), (1e-9, "p-value", "<\u00a00.001"), (21, "words", "twenty-one"),
            (1105, "words", "one thousand one hundred and five"), (-3, "words", "minus three"), (float("nan"), "", "\u2013"),
        ]  # fmt: skip
        for value, form, wanted in cases:
            kind = "whole" if isinstance(value, int) else "number"
            self.assertEqual(write_value(Answer(kind, value), form, None, ENGLISH), wanted)

    def test_whole_numbers_keep_every_digit_however_large(self) -> None:
        large = 12_345_678_901_234_567_890
        for form, wanted in (
            ("", "12345678901234567890"), ("thousands", "12,345,678,901,234,567,890"), ("2 decimals", "12345678901234567890.00"),
            ("percent", "1234567890123456789000.0%"),
        ):  # fmt: skip
            self.assertEqual(write_value(Answer("whole", large), form, None, ENGLISH), wanted)
        self.assertEqual(len(write_value(Answer("whole", 10**400), "thousands", None, ENGLISH)), 401 + 133)
        column = Column(("n",), Kind.NUMBER, (10**400, 1.5, -(10**320)))
        cells = [words_of(row[0]) for row in lay_out(TableData((column,)), None, ENGLISH, SPAN, lambda told: ()).rows]
        self.assertEqual((len(cells[0]), cells[1], len(cells[2])), (401, "1.5", 322))

    def test_what_rounds_to_nothing_has_no_sign(self) -> None:
        for value, form, wanted in (
            (-0.001, "2 decimals", "0.00"), (-0.0, "", "0"), (-0.0004, "percent", "0.0%"), (-0.4, "thousands", "0"),
            (-0.006, "2 decimals", "\u22120.01"), (-1e-12, "", "\u22121\u202f×\u202f10⁻¹²"),
        ):  # fmt: skip
            self.assertEqual(write_value(Answer("number", value), form, None, ENGLISH), wanted)

    def test_languages_have_their_signs_and_dates(self) -> None:
        day = Answer("date", "2026-03-01")
        self.assertEqual(write_value(day, "", None, GERMAN), "1. März 2026")
        self.assertEqual(write_value(Answer("number", 12345.678), "thousands", 1, GERMAN), "12.345,7")
        self.assertEqual(write_value(Answer("number", 0.5), "percent", None, FRENCH), "50,0\u202f%")

    def test_what_has_several_faces_is_a_number_where_one_is_asked_for(self) -> None:
        money = Answer("faces", {"text": "1234567.50", "number": "1234567.50", "formula": ""})
        third = Answer("faces", {"text": "1/3", "number": "0.3333333333333333", "formula": r"\frac{1}{3}"})
        for answer, form, decimals, language, wanted in (
            (money, "", None, ENGLISH, "1234567.50"), (money, "", None, GERMAN, "1234567,50"), (money, "", 1, ENGLISH, "1234567.5"),
            (money, "thousands", 2, ENGLISH, "1,234,567.50"), (third, "", None, ENGLISH, "1/3"), (third, "", 2, ENGLISH, "1/3"),
            (third, "2 decimals", None, ENGLISH, "0.33"), (third, "percent", None, ENGLISH, "33.3%"),
            (Answer("faces", {"text": "1E+400", "number": "1E+400", "formula": ""}), "2 decimals", None, ENGLISH, "1" + 400 * "0" + ".00"),
            (Answer("faces", {"text": "-Infinity", "number": "-Infinity", "formula": ""}), "thousands", None, ENGLISH, "\u2212∞"),
            (Answer("faces", {"text": "7", "number": "7", "formula": "7"}), "words", None, ENGLISH, "seven"),
        ):  # fmt: skip
            self.assertEqual(write_value(answer, form, decimals, language), wanted)
        with self.assertRaises(FormFault):
            write_value(Answer("faces", {"text": "x", "number": "", "formula": "x"}), "percent", None, ENGLISH)

    def test_a_form_that_does_not_fit_is_a_fault(self) -> None:
        for answer, form in (
            (Answer("text", "x"), "percent"),
            (Answer("number", 1.5), "words"),
            (Answer("number", 7.0), "p-value"),
        ):
            with self.assertRaises(FormFault):
                write_value(answer, form, None, ENGLISH)


def said(told: Told) -> tuple[Text, ...]:
    return (Text(SPAN, told.text),)


def cells(*columns: Column, decimals: int | None = None) -> list[list[str]]:
    """The words of a table, column by column."""
    table = lay_out(TableData(columns), decimals, ENGLISH, SPAN, said)
    return [[words_of(row[place]) for row in table.rows] for place in range(len(columns))]


class Tables(unittest.TestCase):
    """Numbers stand on their decimals, heads over what they span."""

    def test_a_column_has_one_number_of_decimals(self) -> None:
        def number(*values: float | None) -> Column:
            return Column(("x",), Kind.NUMBER, values)

        self.assertEqual(cells(number(1.5, 2.25, None)), [["1.50", "2.25", "\u2013"]])
        self.assertEqual(cells(number(1, -20)), [["1", "\u221220"]])
        self.assertEqual(cells(number(1935.0, 1940.0), decimals=2), [["1935", "1940"]])
        self.assertEqual(cells(number(1 / 3, 100.0), decimals=2), [["0.33", "100.00"]])
        self.assertEqual(cells(number(1e-9, 2.5e-9)), [["1\u202f×\u202f10⁻⁹", "2.5\u202f×\u202f10⁻⁹"]])
        self.assertEqual(cells(Column(("b",), Kind.TRUTH, (True, False, None))), [["yes", "no", "\u2013"]])

    def test_equal_heads_above_the_lowest_level_become_one(self) -> None:
        columns = [
            Column((top, low), Kind.TEXT, ("x",), top == "")
            for top, low in (("", "i"), ("A", "a"), ("A", "b"), ("B", "b"))
        ]
        table = lay_out(TableData(tuple(columns)), None, ENGLISH, SPAN, said)
        self.assertEqual([(words_of(cell.text), cell.span) for cell in table.heads[0]], [("", 1), ("A", 2), ("B", 1)])
        self.assertEqual([words_of(cell.text) for cell in table.heads[1]], ["i", "a", "b", "b"])
        self.assertEqual(table.index_columns, 1)

    def test_cells_can_have_looks_of_their_own(self) -> None:
        column = Column(
            ("x",), Kind.NUMBER,
            (1.25, Value(2.5, 2.0, 3.25), Value(None, 1.0, 2.0), Value(0.5, brackets=True), Value(7, beside=Value("9 %")),
             Value(3.14159, decimals=3, marks="a"), Value("")),
        )  # fmt: skip
        self.assertEqual(
            cells(column),
            [["1.25", "2.50 [2.00, 3.25]", "[1.00, 2.00]", "(0.50)", "7 (9 %)", "3.142", ""]],
        )
        german = lay_out(TableData((column,)), None, language_of("de"), SPAN, said)
        self.assertEqual(words_of(german.rows[1][0]), "2,50 [2,00; 3,25]")
        self.assertEqual(german.rows[5][0][-1], Superscript(SPAN, "a"))

    def test_forms_hold_for_columns_and_a_form_that_does_not_fit_is_a_fault(self) -> None:
        def formed(form: str, *values: Cell, kind: Kind = Kind.NUMBER) -> list[str]:
            return cells(Column(("x",), kind, values, form=form))[0]

        self.assertEqual(formed("percent", 0.125, None), ["12.5%", "\u2013"])
        self.assertEqual(formed("thousands", 12345, 1), ["12,345", "1"])
        self.assertEqual(formed("p-value", 0.0001, 0.04), ["<\u00a00.001", "0.040"])
        self.assertEqual(formed("'.1e'", 1234.5), ["1.2e+03"])
        self.assertEqual(formed("'%d %B'", "2026-03-01", kind=Kind.DATE), ["01 March"])
        self.assertEqual(
            formed("", "2026-03-01", "2026-03-01 14:30", kind=Kind.DATE), ["1 March 2026", "1 March 2026, 14:30"]
        )
        for form, value in (("p-value", 3.0), ("'q'", 1.0)):
            with self.subTest(form), self.assertRaises(FormFault):
                formed(form, value)

    def test_groups_stand_above_their_rows_and_notes_below(self) -> None:
        column = Column(("x",), Kind.TEXT, ("a", "b", "c"), marks="a")
        data = TableData(
            (column,), groups=(Group(0, "G"), Group(2, "H")), foot=1, continued=(1,), notes=(Note(Told("n"), "a"),)
        )
        table = lay_out(data, None, ENGLISH, SPAN, said)
        self.assertEqual([words_of(row[0]) for row in table.rows], ["G", "a", "b", "H", "c"])
        self.assertEqual(table.kinds, ("group", "", "continued", "group", "foot"))
        self.assertEqual(words_of(table.heads[0][0].text), "x")
        self.assertEqual([(mark, words_of(words)) for mark, words in table.notes], [("a", "n")])
