"""Frames, statistics and fits as tables: what is in their cells, heads, feet and notes."""

import datetime
import decimal
import unittest
from types import SimpleNamespace
from typing import Any

import numpy as np
import pandas as pd

from wornpage.session.fitted import fitted, level_of
from wornpage.session.python.fits import read_fit
from wornpage.session.python.frames import MAX_ROWS, as_table, plain_table
from wornpage.session.python.statistics import crossed, summarised
from wornpage.session.python.tables import table_of
from wornpage.session.tabling import finished, laid_out
from wornpage.tree.counting import letters

PLAIN: dict[str, Any] = {"spans": None, "units": None, "intervals": None, "groups": None}


def told(words: object) -> dict[str, object]:
    return {"text": str(words)}


def columns(table: Any) -> dict[str, Any]:
    """Cells by the last head."""
    return {str(column["heads"][-1]): column["cells"] for column in table["columns"]}


class Frames(unittest.TestCase):
    def kind_and_cells(self, values: Any) -> tuple[str, list[Any]]:
        """What a column with these values becomes."""
        table = as_table(pd.DataFrame({"x": values}))
        assert table is not None
        (column,) = table["columns"]
        return column["kind"], column["cells"]

    def test_columns_of_every_kind(self) -> None:
        day = datetime.date(2024, 2, 29)
        for values, kind, cells in (
            ([1, 2], "number", [1, 2]),
            ([1.5, None], "number", [1.5, None]),
            (pd.array([1, None], dtype="Int64"), "number", [1, None]),
            ([True, False], "truth", [True, False]),
            (pd.array([True, None], dtype="boolean"), "truth", [True, None]),
            ([True, None], "truth", [True, None]),
            (pd.to_datetime(["2024-02-29", None]), "date", ["2024-02-29", None]),
            (pd.to_datetime(["2024-02-29 13:45", "2024-03-01 00:00"]), "date", ["2024-02-29 13:45:00", "2024-03-01 00:00:00"]),
            ([day, None], "date", ["2024-02-29", None]),
            (pd.to_timedelta(["01:02:03", None]), "text", ["01:02:03", None]),
            (pd.to_timedelta(["-1 days", "36:00:00.5"]), "text", ["\u22121 d 00:00:00", "1 d 12:00:00.5"]),
            (pd.Categorical(["b", None]), "text", ["b", None]),
            (pd.period_range("2024-01", periods=2, freq="M"), "text", ["2024-01", "2024-02"]),
            (["word", 3], "text", ["word", "3"]),
            ([1 + 2j], "text", ["(1+2j)"]),
            ([decimal.Decimal("1.50"), decimal.Decimal("NaN")], "number", ["1.50", None]),
            (pd.Series([10**400, 1], dtype=object), "number", [10**400, 1]),
        ):  # fmt: skip
            with self.subTest(values=values):
                self.assertEqual(self.kind_and_cells(values), (kind, cells))

    def test_numbers_that_nobody_could_read_are_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "more than 4,300 digits"):
            self.kind_and_cells(pd.Series([10**5000], dtype=object))

    def test_an_index_shows_where_it_means_something(self) -> None:
        frame = pd.DataFrame({"n": [3, 1, 2]})
        for made, heads in (
            (frame, ["n"]),
            (frame[frame.n > 1], ["n"]),
            (frame.sort_values("n"), ["n"]),
            (frame.set_index(pd.Index(["a", "b", "c"])), ["", "n"]),
            (frame.set_index(pd.Index([7, 8, 9], name="year")), ["year", "n"]),
            (frame.set_index(pd.MultiIndex.from_product([["x"], [1, 2, 3]], names=["k", None])), ["k", "", "n"]),
        ):
            with self.subTest(heads=heads):
                self.assertEqual([column["heads"][-1] for column in table_of(made)["columns"]], heads)

    def test_heads_in_levels_keep_their_names(self) -> None:
        wide = pd.DataFrame([[1, 2]], columns=pd.MultiIndex.from_product([["a"], ["x", "y"]], names=["top", "low"]))
        wide.index = pd.Index(["r"], name="row")
        heads = [column["heads"] for column in table_of(wide)["columns"]]
        self.assertEqual(heads, [["top", "row / low"], ["a", "x"], ["a", "y"]])

    def test_long_frames_say_how_much_they_leave_out(self) -> None:
        table = table_of(pd.DataFrame({"n": range(MAX_ROWS + 5)}))
        self.assertEqual((len(table["columns"][0]["cells"]), table["left_out"]), (MAX_ROWS, 5))

    def test_other_things_with_rows_and_columns(self) -> None:
        self.assertEqual(columns(table_of({"a": [1, 2], "b": ["x", "y"]})), {"a": [1, 2], "b": ["x", "y"]})
        self.assertEqual(columns(table_of([{"a": 1}, {"a": 2}])), {"a": [1, 2]})
        self.assertEqual(columns(table_of({"north": 1, "south": 2})), {"": [1, 2]})
        self.assertEqual(columns(table_of(pd.Series([1.5], name="share"))), {"share": [1.5]})
        with self.assertRaisesRegex(ValueError, "wants a frame"):
            table_of(3)

    def test_without_a_library_the_same_things_give_the_same_cells(self) -> None:
        day = datetime.date(2024, 3, 1)
        for value in (
            {"n": [1, 2], "w": ["a", None], "t": [True, False], "d": [day, day]},
            [{"n": 1, "w": "a"}, {"n": 2.5, "x": "b"}],
            [(1, "a"), (2, "b")],
            {"rooms": 3, "books": 40},
        ):
            with self.subTest(value):
                self.assertEqual(columns(plain_table(value)), columns(table_of(value)))
        with self.assertRaises(ValueError):
            plain_table({"a": [1], "b": [1, 2]})
        self.assertEqual(plain_table({"a": range(MAX_ROWS + 5)})["left_out"], 5)


class Looks(unittest.TestCase):
    def setUp(self) -> None:
        self.frame = pd.DataFrame(
            {"room": ["b", "a", "b"], "mean": [1.0, 2.0, 3.0], "lo": [0.5, 1.5, 2.5], "hi": [2.0, 3.0, 4.0]}
        )

    def made(self, **looks: Any) -> Any:
        return laid_out(table_of(self.frame), told, **{**PLAIN, **looks})

    def test_groups_bring_rows_together_in_the_order_in_which_they_come(self) -> None:
        table = self.made(groups="room")
        self.assertEqual(columns(table)["mean"], [1.0, 3.0, 2.0])
        self.assertEqual(table["groups"], [{"row": 0, "words": "b"}, {"row": 2, "words": "a"}])

    def test_a_note_on_a_cell_finds_its_row_also_in_groups(self) -> None:
        table = self.made(groups="room", notes={(1, "mean"): "Counted twice.", "hi": "At most."})
        self.assertEqual(columns(table)["mean"][2], {"content": 2.0, "marks": "a"})
        self.assertEqual([note["mark"] for note in table["notes"]], ["a", "b"])

    def test_many_notes_go_on_after_z_and_stay_apart(self) -> None:
        self.frame = pd.DataFrame({f"c{n}": [n] for n in range(28)})
        table = self.made(notes={f"c{n}": f"Note {n}." for n in range(28)})
        self.assertEqual([note["mark"] for note in table["notes"]][-3:], ["z", "aa", "ab"])
        self.assertEqual(len({note["mark"] for note in table["notes"]}), 28)
        twice = finished(table_of(self.frame), told, notes={"c0": "One.", (0, "c0"): "Two.", (0, "c1"): "Three."})
        self.assertEqual(twice["columns"][0]["cells"][0]["marks"], "b")
        again = finished(twice, told, notes={(0, "c0"): "Four."})
        self.assertEqual(again["columns"][0]["cells"][0]["marks"], "b,d")

    def test_intervals_units_spans_heads_and_places(self) -> None:
        table = self.made(
            intervals={"mean": ("lo", "hi")}, units={"mean": "cm"}, spans={"All": ["mean"]}, decimals={"mean": 1}, heads={"room": "Room"},
        )  # fmt: skip
        room, mean = table["columns"]
        self.assertEqual(mean["cells"][0], {"content": 1.0, "low": 0.5, "high": 2.0})
        self.assertEqual((mean["heads"], mean["decimals"]), ([{"text": "All"}, "mean (cm)"], 1))
        self.assertEqual(room["heads"], ["", {"text": "Room"}])

    def test_what_cannot_be_is_told_with_what_was_probably_meant(self) -> None:
        for looks, words in (
            ({"decimals": {"maen": 1}}, "no column 'maen'; did you mean 'mean'"),
            ({"groups": "zzz"}, "no column 'zzz'; there are: 'room'"),
            ({"align": "middle"}, "`left`, `right` or `centre`"),
            ({"forms": {"mean": "roundish"}}, "no form is called 'roundish'"),
            ({"heads": ["one"]}, "this table has 4 columns, and 1 heads"),
            ({"notes": {(9, "mean"): "x"}}, "no row 9"),
        ):
            with self.subTest(looks=looks), self.assertRaisesRegex(ValueError, words):
                self.made(**looks)

    def test_forms_with_and_without_quotes(self) -> None:
        for form in ("percent", "thousands", "2 decimals", ",.2f", "'.1e'", ".0%"):
            with self.subTest(form):
                column = self.made(forms={"mean": form})["columns"][1]
                self.assertIn(column["form"], {form, f"'{form}'"})


class Statistics(unittest.TestCase):
    def setUp(self) -> None:
        self.frame = pd.DataFrame(
            {"room": ["a", "a", "b", "b"], "x": [1.0, 2.0, 3.0, np.nan], "kind": ["p", "q", "p", "p"]}
        )

    def test_a_summary_has_moments_and_shares(self) -> None:
        table = summarised(self.frame[["x", "kind"]], columns=None, by=None)
        heads = [column.get("name", "") for column in table["columns"]]
        self.assertEqual(heads, ["", "n", "share", "missing", "mean", "sd", "least", "median", "most"])
        first = [column["cells"][0] for column in table["columns"]]
        self.assertEqual([*first[:2], first[3]], ["x", 3, 1])
        self.assertEqual((first[4]["content"], first[5]["content"]), (2.0, 1.0))
        self.assertEqual(table["groups"], [{"row": 1, "words": "kind"}])
        self.assertEqual(
            [column["cells"][1:] for column in table["columns"]][:3],
            [["p", "q"], [3, 1], [{"content": "75\u202f%"}, {"content": "25\u202f%"}]],
        )

    def test_nothing_missing_has_no_column_for_it(self) -> None:
        table = summarised(self.frame[:3][["x"]], columns=None, by=None)
        self.assertNotIn("missing", [column.get("name", "") for column in table["columns"]])

    def test_by_groups_side_by_side(self) -> None:
        table = summarised(self.frame, columns=["x"], by="room")
        self.assertEqual([column.get("name", "") for column in table["columns"]], ["", "a", "b"])
        cell = table["columns"][1]["cells"][0]
        self.assertEqual((cell["content"], round(cell["beside"]["content"], 3)), (1.5, 0.707))

    def test_a_crosstab_counts_and_shares(self) -> None:
        table = crossed(self.frame, "room", "kind", shares="", totals=True)
        self.assertEqual([column["cells"] for column in table["columns"][1:]], [[1, 2, 3], [1, 0, 1], [2, 2, 4]])
        rows = crossed(self.frame, "room", "kind", shares="rows", totals=True)
        self.assertEqual(
            [column["cells"] for column in rows["columns"][1:]], [[0.5, 1.0, 0.75], [0.5, 0.0, 0.25], [1.0, 1.0, 1.0]]
        )
        alone = crossed(self.frame, "room", "kind", shares="all", totals=False)
        self.assertEqual(alone["columns"][1]["cells"], [0.25, 0.5])
        for wrong, words in ((("room", "knid"), "did you mean 'kind'"), (("room", "kind", "sum"), "shares are of")):
            with self.subTest(wrong), self.assertRaisesRegex(ValueError, words):
                crossed(self.frame, *wrong[:2], shares=(*wrong, "")[2], totals=False)


class Fits(unittest.TestCase):
    """By what a fit offers, not by its class."""

    def table(self, *fits: object, **asked: Any) -> Any:
        wanted: dict[str, Any] = {"leave_out": (), "interval": None, "stars": False, "decimals": 2, **asked}
        heads, terms = wanted.pop("heads", None), wanted.pop("terms", {})
        level = level_of(wanted.get("interval"))
        return fitted([read_fit(fit, level) for fit in fits], heads, terms, **wanted)

    def regression(self, **more: Any) -> Any:
        series = lambda *values: pd.Series(values, index=["one", "two"])  # noqa: E731
        return SimpleNamespace(
            params=series(1.0, -2.0), bse=series(0.5, 0.25), pvalues=series(0.04, 0.0001), nobs=7.0, **more
        )

    def test_one_fit_has_a_column_for_each_thing_it_tells(self) -> None:
        table = self.table(self.regression(rsquared=0.5))
        self.assertEqual([column["name"] for column in table["columns"][1:]], ["estimate", "error", "p"])
        self.assertEqual(
            table["columns"][0]["cells"],
            ["one", "two", {"content": {"word": "nobs"}}, {"content": {"word": "rsquared"}}],
        )
        self.assertEqual((table["columns"][1]["cells"][2], table["foot"]), ({"content": 7, "decimals": 0}, 2))

    def test_several_stand_side_by_side_and_what_one_leaves_out_is_empty(self) -> None:
        other = SimpleNamespace(params=pd.Series([3.0], index=["two"]), bse=pd.Series([1.0], index=["two"]))
        table = self.table(self.regression(), other, heads=["A", "B"], stars=True)
        first, second = table["columns"][1:]
        self.assertEqual([cell["content"] for cell in first["cells"][:4]], [1.0, 0.5, -2.0, 0.25])
        self.assertEqual([cell["content"] for cell in second["cells"][:4]], ["", "", 3.0, 1.0])
        self.assertEqual((first["cells"][0]["marks"], first["cells"][2]["marks"]), ("*", "***"))
        self.assertEqual(table["continued"], [1, 3])

    def test_terms_are_named_and_left_out(self) -> None:
        table = self.table(self.regression(), leave_out=["one"], terms={"two": "Second"})
        self.assertEqual(table["columns"][0]["cells"][0], {"content": "Second"})

    def test_lines_tests_curves_and_trained_models(self) -> None:
        line = SimpleNamespace(slope=2.0, intercept=1.0, stderr=0.1, pvalue=0.02, rvalue=0.5)
        test = SimpleNamespace(
            statistic=1.5, pvalue=0.2, df=4.0, confidence_interval=lambda level: SimpleNamespace(low=-level, high=level)
        )
        learned = SimpleNamespace(
            coef_=np.array([[0.5, 1.5]]), intercept_=np.array([2.0]), feature_names_in_=np.array(["a", "b"])
        )
        for fit, terms, values in (
            (line, ["intercept", "slope"], [1.0, 2.0]),
            ((np.array([1.0, 4.0]), np.diag([4.0, 9.0])), ["p1", "p2"], [1.0, 4.0]),
            (test, ["statistic"], [1.5]),
            (learned, ["intercept", "a", "b"], [2.0, 0.5, 1.5]),
            (SimpleNamespace(x=[1.0, 2.0], success=True), ["p1", "p2"], [1.0, 2.0]),
        ):
            with self.subTest(terms=terms):
                made = self.table(fit)
                shown = len(terms)
                self.assertEqual(made["columns"][0]["cells"][:shown], terms)
                self.assertEqual([cell["content"] for cell in made["columns"][1]["cells"][:shown]], values)
        self.assertEqual(
            self.table(test, interval=0.9)["columns"][2]["cells"][1],
            {"content": None, "low": -0.9, "high": 0.9, "decimals": 2},
        )

    def test_what_is_no_fit_is_refused_in_words(self) -> None:
        for fits, asked, words in (
            ((), {}, "at least one"),
            (("A caption",), {}, "did you mean caption='A caption'"),
            ((3,), {}, "cannot read int"),
            ((self.regression(),), {"interval": 95}, "such as 0.95"),
            ((self.regression(),), {"heads": ["A", "B"]}, "1 models are shown, and 2 names"),
            ((SimpleNamespace(coef_=[[1], [2]], intercept_=[1, 2]),), {}, "this model has several"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ValueError, words):
                self.table(*fits, **asked)


class Counting(unittest.TestCase):
    def test_letters_go_on(self) -> None:
        self.assertEqual([letters(n) for n in (1, 26, 27, 52, 53, 702, 703)], ["a", "z", "aa", "az", "ba", "zz", "aaa"])
        self.assertEqual(len({letters(n) for n in range(1, 2_000)}), 1_999)
        with self.assertRaises(ValueError):
            letters(0)
