"""What stands in for what older Pythons lack does the same as what newer ones have."""

import sys
import unittest
from pathlib import PurePath

from hypothesis import given
from hypothesis import strategies as st

from wornpage.tree import older

ROWS = st.lists(st.lists(st.integers(), max_size=4), max_size=4)


class Older(unittest.TestCase):
    @given(ROWS)
    def test_things_side_by_side_are_those_of_a_zip_that_insists(self, rows: list[list[int]]) -> None:
        try:
            wanted = list(zip(*rows, strict=True))
        except ValueError:
            with self.assertRaises(ValueError):
                list(older.beside(*rows))
        else:
            self.assertEqual(list(older.beside(*rows)), wanted)

    def test_modules_that_come_with_python_are_found_in_its_folder(self) -> None:
        found = older._found_modules()
        self.assertLessEqual({"os", "json", "sys", "math", "encodings"}, found)
        self.assertNotIn("hypothesis", found)
        self.assertLessEqual({"os", "json", "sys"}, older.STANDARD)

    def test_which_code_has_something_to_do_when_it_is_left(self) -> None:
        def cleans() -> None:
            try:
                PurePath()
            finally:
                PurePath()

        def plain() -> None:
            PurePath()

        self.assertEqual([older.catches(one.__code__) for one in (cleans, plain)], [True, False])
        self.assertNotEqual(older.handlers_of(cleans.__code__), older.handlers_of(plain.__code__))
        self.assertEqual(older.most_digits(), sys.get_int_max_str_digits())


if __name__ == "__main__":
    unittest.main()
