"""Colours by name and in digits, and which letters can be read on them."""

import unittest

from wornpage.tree.colours import NAMED, in_digits, is_dark


class Colours(unittest.TestCase):
    def test_every_way_to_write_one(self) -> None:
        for written, digits in (("#ABC", "#aabbcc"), ("#1c5A63", "#1c5a63"), ("Teal", "#008080"), ("grey", "#808080")):
            self.assertEqual(in_digits(written), digits)
        for written in ("", "#12", "#12345", "greenish", "#ggg", "rgb(1,2,3)", "#1234567"):
            with self.subTest(written), self.assertRaises(ValueError):
                in_digits(written)

    def test_letters_have_the_greater_contrast(self) -> None:
        dark = {name for name in NAMED if is_dark(name)}
        self.assertLessEqual({"black", "navy", "maroon", "purple", "darkgreen", "teal", "indigo"}, dark)
        self.assertFalse({"white", "yellow", "ivory", "silver", "lime", "aqua", "gold"} & dark)
