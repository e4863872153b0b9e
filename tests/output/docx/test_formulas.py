"""Formulas as Office mathematics: valid, brackets in pairs, sums with what they sum, no sign with nothing beside it."""

import re
import unittest
from pathlib import Path

from tests.output.docx.documents import invalid
from tests.support import FolderCase
from wornpage.compose.mathematics import read_formula
from wornpage.output.ooxml.formulas import equation
from wornpage.press import press

CORPUS = Path(__file__).parents[2] / "compose" / "formulas.txt"


def shape(latex: str) -> str:
    """The elements of a formula without what only says how letters look."""
    made = re.sub(
        r"<w:rPr>.*?</w:rPr>|<m:rPr>.*?</m:rPr>|<m:(ctrlPr|naryPr|mPr)>.*?</m:\1>|</?m:r>|</?m:t[^>]*>",
        "",
        equation(read_formula(latex)),
    )
    return made.replace("m:", "").replace("\u200b", "·").removeprefix("<oMath>").removesuffix("</oMath>")


class Formulas(unittest.TestCase):
    def test_brackets_are_pairs_and_bars_are_found_out(self) -> None:
        def fenced(opening: str, inside: str, closing: str) -> str:
            return f'<d><dPr><begChr val="{opening}"/><endChr val="{closing}"/></dPr><e>{inside}</e></d>'

        for latex, wanted in (
            ("(a)", fenced("(", "a", ")")),
            ("(a]", fenced("(", "a", "]")),
            ("(a", "(a"),
            ("a)", "a)"),
            (r"\bigl[a\bigr]^2", f"<sSup><e>{fenced('[', 'a', ']')}</e><sup>2</sup></sSup>"),
            ("|a|b|c|", fenced("|", "a", "|") + "b" + fenced("|", "c", "|")),
            ("|a||b|", fenced("|", "a", "|") + fenced("|", "b", "|")),
            ("|-|a||", fenced("|", "−" + fenced("|", "a", "|"), "|")),
            (r"\{x | y\}", fenced("{", "x|y", "}")),
            (r"2|a|", "2" + fenced("|", "a", "|")),
            (r"\{x | |x|>0\}", fenced("{", "x|" + fenced("|", "x", "|") + "&gt;0", "}")),
            (r"P(A\mid B)", "P" + fenced("(", "A∣B", ")")),
        ):
            self.assertEqual(shape(latex), wanted, latex)

    def test_a_sum_holds_its_term_and_a_function_its_argument(self) -> None:
        self.assertEqual(
            shape(r"\sum_i a_i b + c"),
            "<nary><sub>i</sub><sup></sup><e><sSub><e>a</e><sub>i</sub></sSub>b</e></nary>+c",
        )
        self.assertEqual(shape(r"\int f = 1"), "<nary><sub></sub><sup></sup><e>f</e></nary>=1")
        self.assertEqual(shape(r"\log x y"), "<func><fName>log</fName><e>x</e></func>y")
        self.assertEqual(
            shape(r"\max_i x"), "<func><fName><limLow><e>max</e><lim>i</lim></limLow></fName><e>x</e></func>"
        )

    def test_no_sign_stands_where_it_has_nothing_to_stand_between(self) -> None:
        self.assertEqual(shape("x^+"), "<sSup><e>x</e><sup>+</sup></sSup>")
        self.assertIn("<m:nor/>", equation(read_formula("x^+")))
        self.assertEqual(shape("= a"), "·=a")
        self.assertEqual(shape("a ="), "a=·")
        self.assertEqual(shape("-a"), "−a")


class Corpus(FolderCase):
    def test_every_formula_is_valid(self) -> None:
        formulas = [
            line for line in CORPUS.read_text(encoding="utf-8").splitlines() if line and not line.startswith("#")
        ]
        page = self.write("page.md", "\n".join(f"$$ {latex} $$\n" for latex in formulas))
        press(page, ["docx"])
        self.assertEqual(invalid(page.with_suffix(".docx")), [])
