"""Marks within words, and tables as text."""

import csv
import unittest

from wornpage.tree.brackets import value_marks
from wornpage.tree.columns import table_reader


class Marks(unittest.TestCase):
    def test_where_they_begin_and_end(self) -> None:
        for text, wanted in {
            "no mark {here}": [],
            "{= a}": [("{= a}", False)],
            "x {= a} y {= b['}']} z": [("{= a}", False), ("{= b['}']}", False)],
            "\\{= a} {= b}": [("{= a}", True), ("{= b}", False)],
            "{= {1: {2}}[1]}": [("{= {1: {2}}[1]}", False)],
            "{= it's}": [("{= it's}", False)],
        }.items():
            with self.subTest(text):
                self.assertEqual([(text[start:end], escaped) for start, end, escaped in value_marks(text)], wanted)

    def test_one_that_is_never_closed_is_the_last(self) -> None:
        self.assertEqual(list(value_marks("a {= b} {= c")), [(2, 7, False), (8, -1, False)])
        self.assertEqual(list(value_marks("{= (a} {= b}")), [(0, -1, False)])


class Tables(unittest.TestCase):
    def test_the_sign_between_cells_is_found_out(self) -> None:
        for text in ("a,b\n1,2\n", "a;b\n1;2\n", "a\tb\n1\t2\n", '\n \n"a",b\n1,2'):
            with self.subTest(text):
                rows, above = table_reader(text)
                self.assertEqual((list(rows), above), ([{"a": "1", "b": "2"}], 2 * text.startswith("\n")))
        self.assertEqual(list(table_reader("a,b\tc\n1,2\t3\n", "\t")[0]), [{"a,b": "1,2", "c": "3"}])

    def test_what_is_no_table(self) -> None:
        for text, fault in (("a,b,a\n1,2,3\n", ValueError), ('a\n"1\n', csv.Error)):
            with self.subTest(text), self.assertRaises(fault):
                list(table_reader(text)[0])
        self.assertEqual(list(table_reader("")[0]), [])
