"""Formulas of chemistry as notation of mathematics."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from wornpage.compose.mathematics import formula_in, spoken
from wornpage.compose.mathematics.chemistry import notation_of


def plain(text: str) -> str:
    """The notation without what only sets letters upright, and without spaces."""
    made = notation_of(text).replace("\\mathrm", "").replace("{}", "").replace(" ", "")
    return made.replace("{H}", "H").replace("{O}", "O").replace("{C}", "C")


class Chemistry(unittest.TestCase):
    def test_numbers_are_amounts_before_and_indices_behind(self) -> None:
        for text, notation in (
            ("H2O", "H_{2}O"), ("2H2O", "2\\,H_{2}O"), ("1/2 O2", "\\tfrac{1}{2}\\,O_{2}"), ("C6H12O6", "C_{6}H_{12}O_{6}"), ("(OH)2", "({OH})_{2}"),
            ("0.5O2", "0.5\\,O_{2}"), ("H2O.5H2O", "H_{2}O\\cdot5\\,H_{2}O"),
        ):  # fmt: skip
            self.assertEqual(plain(text), notation)

    def test_charges_states_and_bonds(self) -> None:
        for text, notation in (
            ("H+", "H^{+}"), ("O^2-", "O^{2-}"), ("H3O+ (aq)", "H_{3}O^{+}\\,{(aq)}"), ("C=O", "C\\mathord{=}O"), ("C#C", "C\\mathord{\\equiv}C"),
            ("O2 ^", "O_{2}\\uparrow"), ("H v", "H\\downarrow"), ("C_n", "C_{{n}}"), ("^{14}C", "^{14}C"),
        ):  # fmt: skip
            self.assertEqual(plain(text), notation)

    def test_arrows_with_words(self) -> None:
        self.assertEqual(plain("H -> O"), "H\\rightarrowO")
        self.assertEqual(plain("H <=> O"), "H\\rightleftharpoonsO")
        self.assertEqual(plain("H ->[C] O"), "H\\overset{C}{\\rightarrow}O")
        self.assertIn("\\underset", notation_of("H ->[heat][2h] O"))

    @given(st.text(alphabet="HOCl2+-=#>^_()[]{} .*v/\\$", max_size=14))
    def test_whatever_is_written_is_written_or_refused_as_a_formula(self, text: str) -> None:
        formula = formula_in(notation_of(text))
        if formula is not None:
            self.assertIsInstance(spoken(formula), str)


if __name__ == "__main__":
    unittest.main()
