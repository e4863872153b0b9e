"""Rows of databases as frames: each column of the type that its values have, or that its table declares."""

import datetime
import decimal
import unittest
from typing import Any

import numpy as np

from wornpage.session.sql.rows import frame_of, simple


def column(values: list[Any], declared: str = "") -> Any:
    return frame_of([(value,) for value in values], ["x"], [declared] if declared else ())["x"]


class Rows(unittest.TestCase):
    def test_values_make_the_type(self) -> None:
        day, moment = datetime.date(2024, 3, 1), datetime.datetime(2024, 3, 1, 10, 30)
        for values, kind in (
            ([1, 2], "int64"), ([1, None], "Int64"), ([1.5, None], "float64"), ([True, None], "boolean"), ([True, False], "bool"), ([decimal.Decimal("1.50"), None], "object"),
            ([None, None], "object"), ([b"\0", None], "object"),
        ):  # fmt: skip
            with self.subTest(values):
                self.assertEqual(str(column(values).dtype), kind)
        for values in ([day, None], [moment], [day, moment]):
            self.assertEqual(column(values).dtype.kind, "M")

    def test_what_is_declared_counts_where_the_values_can_be_that(self) -> None:
        self.assertEqual(column(["2024-03-01", None], "DATE").dtype.kind, "M")
        self.assertEqual(str(column(["2024-03-01 10:30:00.5"], "timestamp")[0]), "2024-03-01 10:30:00.500000")
        self.assertEqual(list(column(["soon", "2024-03-01"], "date")), ["soon", "2024-03-01"])
        self.assertEqual(list(column([20240301], "date")), [20240301])
        self.assertEqual(
            [str(column(values, "BOOLEAN").dtype) for values in ([0, 1], [1, None], [0, 2])],
            ["bool", "boolean", "int64"],
        )
        self.assertEqual(list(column(["0", "1"], "text")), ["0", "1"])

    def test_no_rows_have_the_declared_types(self) -> None:
        frame = frame_of([], ["a", "b", "a", "d"], ["INTEGER", "decimal(6,2)", "datetime", ""])
        self.assertEqual(list(frame.columns), ["a", "b", "a", "d"])
        self.assertEqual([one.kind for one in frame.dtypes], ["i", "f", "M", "O"])
        self.assertEqual(frame_of([(1, 2)], ["a", "b"], ["INTEGER"]).shape, (1, 2), "a declaration that does not fit")

    def test_single_values_are_pythons_own(self) -> None:
        self.assertEqual(
            [type(simple(one)) for one in (np.int64(3), np.float32(1.5), "x", None)], [int, float, str, type(None)]
        )


if __name__ == "__main__":
    unittest.main()
