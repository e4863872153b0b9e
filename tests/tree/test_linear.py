"""Formulas in a line of text."""

import unittest
from pathlib import Path

from wornpage.compose.mathematics import read_formula
from wornpage.tree.linear import linear

FORMULAS = Path(__file__).parents[1] / "compose/formulas.txt"


class Linear(unittest.TestCase):
    def test_what_each_shape_becomes(self) -> None:
        for latex, text in (
            (r"\frac{a+b}{2}", "(a + b)/2"), (r"\sqrt{5}", "√5"), (r"\sqrt[3]{x_1^2}", "∛(x_1^2)"), (r"x^{n-1}_{ij}", "x_ij^(n − 1)"),
            (r"\sum_{i=1}^n \bar x_i", "∑_(i = 1)^n x̄_i"), (r"\begin{pmatrix}1&2\\3&4\end{pmatrix}", "(1, 2; 3, 4)"), (r"f'(x)", "f′(x)"),
            (r"\log_{10} n,\quad n \ge 1", "log_10 n, n ≥ 1"),
        ):  # fmt: skip
            with self.subTest(latex):
                self.assertEqual(linear(read_formula(latex)), text)

    def test_every_formula_has_one_and_loses_no_letter(self) -> None:
        for latex in FORMULAS.read_text(encoding="utf-8").splitlines():
            with self.subTest(latex):
                self.assertTrue(linear(read_formula(latex)) or "phantom" in latex)
