"""Values from one language to another: what goes comes back as it was, and what cannot go is refused in words."""

import datetime
import shutil
import unittest
from typing import Any

import numpy as np
import pandas as pd
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.languages.test_bash import Pages, chunk
from wornpage.session.crossing import CannotCross
from wornpage.session.crossing.taking import taken
from wornpage.session.crossing.telling import told
from wornpage.tree.problem import PageError

TEXT = st.text(st.characters(codec="utf-8", exclude_characters="\0"), max_size=8)
COLUMNS = {
    "whole": st.integers(-(2**31) + 1, 2**31 - 1), "real": st.floats(allow_nan=False), "text": st.none() | TEXT, "truth": st.booleans(),
    "day": st.datetimes(datetime.datetime(1800, 1, 1), datetime.datetime(2200, 1, 1)).map(lambda one: one.replace(hour=0, minute=0, second=0, microsecond=0)),
    "time": st.datetimes(datetime.datetime(1900, 1, 1), datetime.datetime(2100, 1, 1)),
}  # fmt: skip
MADE = """import numpy as np, pandas as pd
FRAME = pd.DataFrame({
    "gap": [1.5, np.nan, np.inf], "some": pd.array([1, None, 3], dtype="Int64"), "yes": pd.array([True, None, False], dtype="boolean"),
    "large": [2**40, 1, 2], "kind": pd.Categorical(["a", "b", None], categories=["b", "a"], ordered=True), "word": ["é", "字 🙂", None],
    "zone": pd.to_datetime(["2024-01-01 12:30", "2024-07-01 00:00", None], format="mixed").tz_localize("Europe/Paris"), "span": pd.to_timedelta(["1h", "36h", None]),
})"""
"""Code that makes a frame with columns of all kinds."""


class Crossing(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.data())
    def test_columns_come_back(self, data: Any) -> None:
        rows = data.draw(st.integers(0, 6))
        frame = pd.DataFrame(
            {name: data.draw(st.lists(one, min_size=rows, max_size=rows)) for name, one in COLUMNS.items()}
        )
        frame["text"] = frame["text"].astype("str")
        again = taken(told(frame))
        pd.testing.assert_frame_equal(again, frame, check_dtype=False)
        if rows:
            self.assertEqual(
                {str(again[name].dtype) for name in ("whole", "real", "truth")}, {"int64", "float64", "bool"}
            )

    @settings(max_examples=60, deadline=None)
    @given(st.recursive(st.none() | st.booleans() | st.integers(-(2**31) + 1, 2**31 - 1) | st.floats(allow_nan=False) | TEXT, lambda inner: st.dictionaries(TEXT.filter(bool), inner, min_size=1, max_size=4), max_leaves=8))  # fmt: skip
    def test_single_values_and_mappings_come_back(self, value: object) -> None:
        self.assertEqual(taken(told(value)), value)

    def test_arrays_lists_and_much_text_come_back(self) -> None:
        np.testing.assert_array_equal(taken(told(np.arange(6).reshape(2, 3))), np.arange(6).reshape(2, 3))
        self.assertEqual(taken(told(["a", None])), ["a", None])
        many = pd.DataFrame({"word": ["x", "y", None] * 1000})
        pd.testing.assert_frame_equal(taken(told(many)), many)
        self.assertEqual(taken(told(datetime.date(2024, 2, 29))), datetime.date(2024, 2, 29))

    def test_what_has_no_counterpart_is_refused_with_its_place(self) -> None:
        import decimal

        for value, words in (
            (pd.DataFrame({"n": [2**60]}), "the column 'n' has whole numbers of more than 53 bits"), ({"f": len}, "the value['f'] is a builtin_function"),
            (pd.DataFrame({"d": [decimal.Decimal(1)]}), "exact decimals"), (pd.DataFrame([[1, 2]], columns=["a", "a"]), "two columns of one name"), (2**60, "53 bits"),
            (pd.DataFrame({"p": pd.period_range("2024", periods=2)}), "holds period"), ("a\0b", "a zero"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(CannotCross, words.replace("[", r"\[")):
                told(value)


@unittest.skipUnless(shutil.which("R"), "R is not installed")
class Uses(Pages):
    def test_frames_go_to_r_and_back_as_they_were(self) -> None:
        make = MADE + "\nframe, plain = FRAME, {'n': 3, 'words': ['a', 'b'], 'grid': [[1, 2], [3, 4]]}"
        check = MADE + "\npd.testing.assert_frame_equal(back, FRAME.astype({'large': float}))\nprint(n + 1)"
        self.pressed(
            chunk("a", make, language="python"),
            "```r run #b uses=\"frame, plain\"\nback <- frame\nn <- plain$n\ncat(class(frame$day), class(frame$kind), levels(frame$kind), plain$words, nchar(frame$word[2]), '\\n')\nformat(frame$zone, '%H %Z'); frame$span\n```",
            f"```python run #c uses=\"back, n\"\n{check}\n```",
        )  # fmt: skip
        shown = " ".join(" ".join(self.shown()).split())
        self.assertIn("NULL ordered factor b a a b 3", shown)
        self.assertIn('"12 CET" "00 CEST"', shown)
        self.assertIn("4", self.shown()[-1])

    def test_an_equal_value_stops_the_wave_there(self) -> None:
        def page(code: str, use: str = "n") -> list[str]:
            return self.pressed(
                chunk("a", code, language="python"),
                f"```r run #b uses={use}\nm <- n * 2\n```",
                chunk("c", "m", language="r"),
            )

        page("n = 3")
        self.assertEqual(page("n = 1 + 2"), ["a"])
        self.assertEqual(page("n = 4"), ["a", "b", "c"])
        self.assertEqual(page("n = 4\nk = 1"), ["a"])
        with self.assertRaises(PageError) as told_:
            page("n = 4\nnear = 1", use="neer")
        self.assertIn(
            "takes over 'neer', which no chunk of another language above has written. Did you mean 'near'?",
            str(told_.exception),
        )
