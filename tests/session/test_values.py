"""Values of marks as they are told: every kind that people have in their names."""

import datetime
import fractions
import unittest
from decimal import Decimal
from typing import Any

import numpy as np
import pandas as pd

from wornpage.session.python.values import formula_of, scalar


class Formula:
    def __init__(self, said: object) -> None:
        self.said = said

    def _repr_latex_(self) -> object:
        return self.said

    def __str__(self) -> str:
        return "as text"


class Scalars(unittest.TestCase):
    def told(self, value: object, form: str = "") -> tuple[str, Any]:
        found = scalar(value, form)
        return str(found["type"]), found["value"]

    def test_kinds(self) -> None:
        day = datetime.date(2024, 2, 29)
        for value, kind, said in (
            (None, "missing", None), (True, "truth", True), (3, "whole", 3), (10**400, "whole", 10**400), (1.5, "number", 1.5), ("a", "text", "a"),
            (day, "date", "2024-02-29"), (datetime.datetime(2024, 2, 29, 13), "moment", "2024-02-29T13:00:00"), ([1], "text", "[1]"),
            (np.int64(3), "whole", 3), (np.float32(0.5), "number", 0.5), (np.bool_(False), "truth", False), (np.str_("a"), "text", "a"), (np.array(3), "whole", 3),
            (pd.NaT, "missing", None), (pd.NA, "missing", None), (pd.Timestamp("2024-03-01 10:20"), "moment", "2024-03-01T10:20:00"),
            (np.datetime64("NaT"), "missing", None), (np.timedelta64("NaT"), "missing", None), (np.datetime64("2024-03-01"), "moment", "2024-03-01T00:00:00"),
            (np.datetime64("2024-03-01T10:20:00.5", "ns"), "moment", "2024-03-01T10:20:00.500000"), (np.timedelta64(90, "m"), "text", "1:30:00"),
            (np.datetime64("2024-03-01T10:20:00.000000001", "ns"), "text", "2024-03-01T10:20:00.000000001"),
        ):  # fmt: skip
            with self.subTest(value=value):
                self.assertEqual(self.told(value), (kind, said))

    def test_numbers_of_other_kinds_have_several_faces(self) -> None:
        for value, number in (
            (Decimal("1.50"), "1.50"),
            (Decimal("NaN"), "nan"),
            (fractions.Fraction(1, 4), "0.25"),
            (1 + 2j, ""),
        ):
            kind, said = self.told(value)
            self.assertEqual((kind, said["number"] if kind == "faces" else ""), ("faces" if number else "text", number))
        self.assertEqual(self.told(Formula("$\\displaystyle x^2$"))[1]["formula"], "x^2")
        for said in (None, 3, "no formula", "$a$ and $b$", "", "$$$$"):
            with self.subTest(said=said):
                self.assertEqual(formula_of(Formula(said)), "")
        self.assertEqual(formula_of(Formula), "")

    def test_formats_of_python(self) -> None:
        for value, form, said in (
            (1234.5, ",.2f", "1,234.50"), (np.float64(0.5), ".0%", "50%"), (np.datetime64("2024-03-01"), "%d.%m.%Y", "01.03.2024"),
            (datetime.date(2024, 3, 1), "%B", "March"), ("a", ">3", "  a"),
        ):  # fmt: skip
            self.assertEqual(self.told(value, form), ("text", said))
        with self.assertRaises(ValueError):
            scalar(1.5, "%Y")

    def test_whole_numbers_that_nobody_writes_are_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "digits"):
            scalar(10**5000, "")


if __name__ == "__main__":
    unittest.main()
