"""Tables as text: the sign between cells, empty lines above, and names that two columns share."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from wornpage.tree.columns import sign_between, table_reader

WORDS = st.lists(st.text(alphabet="abc ", min_size=1, max_size=3), min_size=2, max_size=5, unique_by=str.strip)


class Columns(unittest.TestCase):
    @given(WORDS.filter(lambda words: all(word.strip() for word in words)), st.sampled_from(",;\t"), st.integers(0, 3))
    def test_every_sign_is_found(self, names: list[str], sign: str, empty: int) -> None:
        text = "\n" * empty + sign.join(names) + "\n" + sign.join("1" for _ in names) + "\n"
        rows, above = table_reader(text)
        self.assertEqual((list(rows.fieldnames or ()), above), (names, empty))
        self.assertEqual([list(row.values()) for row in rows], [["1"] * len(names)])
        self.assertEqual(sign_between(sign.join(names)), sign)

    def test_one_name_twice_is_refused_and_one_column_has_no_sign(self) -> None:
        with self.assertRaisesRegex(ValueError, "'a'"):
            table_reader("a;b; a\n1;2;3\n")
        rows, _ = table_reader("room\n1,5\n")
        self.assertEqual(rows.fieldnames, ["room"])
        self.assertEqual(list(table_reader("")[0]), [])


if __name__ == "__main__":
    unittest.main()
