"""Marks in words of the author's, and labels as code gives them: one reading for all languages."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from wornpage.tree.brackets import asked_in, quoted, split_form
from wornpage.tree.labelled import label_of


class Words(unittest.TestCase):
    def test_what_marks_ask_for_and_in_which_form(self) -> None:
        text = "So {= a['}'] as '.2f'} and {= f(x,\n   y)  as 2 decimals }, \\{= none}, {= \"a  b\"}, {= never closed"
        self.assertEqual(asked_in(text), [("a['}']", "'.2f'"), ("f(x, y)", "2 decimals"), ('"a  b"', "")])
        self.assertEqual([quoted(form) for _, form in asked_in(text)], [".2f", "", ""])
        self.assertEqual(split_form("x['a as b'] as words"), ("x['a as b']", "words"))

    @given(st.text(alphabet="{=} a'\"\\\n[]()", max_size=60))
    def test_anything_can_be_read(self, text: str) -> None:
        for expression, form in asked_in(text):
            self.assertNotIn("\n", expression + form)

    def test_labels_hold_what_a_label_may(self) -> None:
        for given_, made in (
            ("acid in Harrow Lane", "acid-in-Harrow-Lane"),
            (" #two ", "two"),
            (3, "3"),
            ("größe:m²", "größe:m²"),
            ("a/b.c", "a-b.c"),
        ):
            with self.subTest(given_):
                self.assertEqual(label_of(given_), made)


if __name__ == "__main__":
    unittest.main()
