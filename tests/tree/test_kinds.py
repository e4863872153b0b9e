"""What may be written for a setting, and what it means."""

import unittest
from collections.abc import Callable
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from wornpage.tree import kinds as k


class Kinds(unittest.TestCase):
    def takes(self, read: Callable[[Any], Any], meant: dict[Any, Any], wrong: tuple[Any, ...]) -> None:
        for written, value in meant.items():
            with self.subTest(written):
                self.assertEqual(read(written), value)
        for written in wrong:
            with self.subTest(written), self.assertRaises(ValueError) as caught:
                read(written)
            self.assertTrue(str(caught.exception))

    def test_lengths_are_centimetres(self) -> None:
        self.takes(
            k.read_length,
            {"16cm": 16, "80 mm": 8, "1in": 2.54, ".5cm": 0.5, " 72pt ": 2.54},
            ("14", "0cm", "201cm", "-3cm", "3px", "", None, "1e3cm", "cm", "1..2cm"),
        )
        with self.assertRaisesRegex(ValueError, "did you mean `14cm`"):
            k.read_length("14")

    def test_times_are_seconds(self) -> None:
        self.takes(
            k._duration,
            {"90s": 90, "5min": 300, "2 h": 7200, "none": None, None: None, "0.5s": 0.5},
            ("0s", "5", "5m", "-1s", "soon", True),
        )

    def test_truths(self) -> None:
        self.takes(k._truth, {True: True, "No": False, "TRUE": True}, ("on", "", "ja", 2, None))

    def test_percentages_are_factors(self) -> None:
        self.takes(k.read_percentage, {"80%": 0.8, "12.5 %": 0.125, "1000%": 10}, ("0%", "80", "1001%", "-5%", "%"))

    def test_sets_of_lines(self) -> None:
        self.takes(
            k._line_turns,
            {
                "3": ((3,),),
                3: ((3,),),
                "3, 7-9": ((3, 7, 8, 9),),
                "2-2,1": ((1, 2),),
                "9 then 10-11": ((9,), (10, 11)),
                "all  then 2": ((), (2,)),
            },
            ("9-3", "0", "0-4", "3-", "a", "", "1-999999999", "1,,2", "1 then", "then 2", "1then2", "1 then x"),
        )

    def test_sizes_are_bytes(self) -> None:
        self.takes(
            k.read_size, {"500MB": 500_000_000, "1.5 gb": 1_500_000_000, "1TB": 10**12}, ("5", "0GB", "5KB", "MB", "")
        )

    def test_whole_numbers_texts_and_lists(self) -> None:
        self.takes(k._whole, {"-3": -3, 7: 7, " 4 ": 4}, (True, "1.5", 1.5, "", None, "1_000", "x"))
        self.takes(k._words, {"a": "a", 3: "3", True: "True"}, (None, [], {}))
        self.assertEqual(k._several("a, b,,c "), ["a", "b", "c"])
        self.assertEqual(
            (k._several(["a, b"]), k._several(3), k.alone("a, b"), k.alone(["x"])), (["a, b"], [3], ["a, b"], ["x"])
        )
        self.takes(k._macro_name, {"\\R": "R", "abs": "abs"}, ("\\", "a1", "a b", ""))
        self.takes(k._align, {"center": "centre", "left": "left"}, ("middle", "", None))

    def test_bounds(self) -> None:
        between = k.Between(1, 9)
        self.assertEqual([between._checked(1), between._checked(9), k.Between(0)._checked(10**9)], [1, 9, 10**9])
        for bound, value in ((between, 0), (between, 10), (k.Between(0), -1)):
            with self.assertRaises(ValueError):
                bound._checked(value)

    @given(st.text(max_size=12))
    def test_whatever_is_written_is_taken_or_refused_in_words(self, text: str) -> None:
        for read in (
            k.read_length,
            k._duration,
            k._truth,
            k.read_percentage,
            k._line_turns,
            k._whole,
            k.read_size,
            k._macro_name,
            k._align,
        ):
            try:
                read(text)
            except ValueError as error:
                self.assertTrue(str(error))


if __name__ == "__main__":
    unittest.main()
