"""What chunks will do, told from their code: a guess, by which only what is begun early is chosen."""

import unittest
from pathlib import Path

from wornpage.plan.guessing import Guess, guess, page_of
from wornpage.source import all_chunks, parse_page

TOOLS = """
import numpy as np
import pandas as pd
from pathlib import Path
level = 3

def scaled(values, n=2):
    return [value * level for value in values if n]

class Shelf:
    books = limit
"""
CHANGES = {
    "x = y + 1": {"x"},
    "held.append(1)": {"held"},
    "frame.sort_values('a', inplace=True)": {"frame"},
    "frame['new'] = frame.a * 2": {"frame"},
    "clean(frame)\nframe.shape": {"frame", "clean"},
    "frame.describe()": set(),
    "print(frame)": set(),
    "np.sum(frame)": set(),
    "model.fit(frame)": {"model", "frame"},
    "for n in range(3):\n    total = total + n": {"n", "total"},
    "def tell(): return 1": {"tell"},
    "del frame": {"frame"},
}
READS = {
    "scaled(rows)": {"scaled", "rows", "level"},
    "[value for value in rows]": {"rows"},
    "f = lambda values: values + extra": {"extra"},
    "def g(level): return level + other\nnp.ones(3)": {"np"},
    "Shelf()": {"Shelf", "limit"},
}
WRITES = (
    "open('a', 'w')",
    "frame.to_csv('a.csv')",
    "Path('a').write_text('b')",
    "plt.savefig('a.png')",
    "np.save('a', rows)",
)
READS_ONLY = (
    "open('a')",
    "pd.read_csv('a.csv')",
    "pd.to_datetime(rows)",
    "open('a', mode='rb').read()",
    "frame.to_numpy()",
)
SETS = ("np.seterr(all='raise')", "pd.set_option('a', 1)", "np.random.seed(1)", "pd.options.display.width = 80")


def guessed(code: str) -> Guess:
    """Of a page with some tools and one chunk with this code."""
    page = parse_page(f"```python run #tools\n{TOOLS}\n```\n\n```python run #own\n{code}\n```\n", Path("p.md"), "p.md")
    chunks = all_chunks(page)
    return guess(chunks[-1], None, page_of(chunk.code for chunk in chunks))


class Guessing(unittest.TestCase):
    def test_what_is_bound_and_changed_in_place(self) -> None:
        for code, names in CHANGES.items():
            with self.subTest(code):
                self.assertEqual(guessed(code).changes, names)

    def test_names_are_read_through_functions_and_not_those_within_them(self) -> None:
        for code, names in READS.items():
            with self.subTest(code):
                self.assertEqual(guessed(code).reads - {"range", "print"}, names)

    def test_files_and_settings(self) -> None:
        for code in WRITES:
            with self.subTest(code):
                self.assertIsNone(guessed(code).files_written)
        for code in READS_ONLY:
            with self.subTest(code):
                self.assertEqual(guessed(code).files_written, frozenset())
        for code in SETS:
            with self.subTest(code):
                self.assertTrue(guessed(code).sets)
        self.assertTrue(guessed("import time; time.perf_counter()").is_alone)

    def test_code_that_cannot_be_read_may_do_anything(self) -> None:
        self.assertTrue(guessed("this is (no code").acts)
