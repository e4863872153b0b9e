"""Chunks pressed from nothing print what plain Python prints."""

import unittest

from tests.law.plain import differences, pages


class Plain(unittest.TestCase):
    def test_chunks_print_what_a_script_prints(self) -> None:
        for name, chunks, files in pages():
            with self.subTest(name):
                self.assertEqual(differences(chunks, files), [])
