"""Mathematics: real formulas through both outputs, faults with their place."""

import unittest
from contextlib import suppress
from pathlib import Path
from tempfile import TemporaryDirectory
from xml.etree import ElementTree as ET

import typst
from hypothesis import given
from hypothesis import strategies as s

from wornpage.compose.mathematics import MathFault, read_formula, spoken
from wornpage.output.html.mathml import mathml
from wornpage.output.pdf.mathematics import equation
from wornpage.output.pdf.writer import sheets_of
from wornpage.output.stationery import find_stationery
from wornpage.tree import formula as f

FORMULAS = (Path(__file__).parent / "formulas.txt").read_text(encoding="utf-8").splitlines()
_ARITIES = {"mfrac": 2, "msub": 2, "msup": 2, "mover": 2, "munder": 2, "mroot": 2, "msubsup": 3, "munderover": 3}


class Reading(unittest.TestCase):
    """The tree says what was meant."""

    def test_formulas_of_chemistry(self) -> None:
        for written, meant in (
            ("H2O", r"\mathrm{H}_{2}\mathrm{O}"),
            ("SO4^2-", r"\mathrm{SO}_{4}^{2-}"),
            ("2H2 + O2 -> 2H2O", r"2\,\mathrm{H}_{2}{}+{}\mathrm{O}_{2}\rightarrow 2\,\mathrm{H}_{2}\mathrm{O}"),
            ("Na+", r"\mathrm{Na}^{+}"),
            ("1/2 O2", r"\tfrac{1}{2}\,\mathrm{O}_{2}"),
            ("[Fe(CN)6]^3-", r"[\mathrm{Fe}(\mathrm{CN})_{6}]^{3-}"),
            ("NaCl(aq)", r"\mathrm{NaCl}\,\mathrm{(aq)}"),
            ("AgCl v", r"\mathrm{AgCl}\downarrow"),
        ):
            self.assertEqual(read_formula(rf"\ce{{{written}}}"), read_formula(meant), written)

    @given(s.text("HOCNaFe0123+-^_{}()[]<>=#*./ v$\\", max_size=30))
    def test_whatever_stands_in_them_is_read_or_told(self, written: str) -> None:
        with suppress(MathFault):
            read_formula(rf"\ce{{{written}}}")

    def test_scripts_primes_and_numbers(self) -> None:
        self.assertEqual(read_formula("x_{12}^2"), f.Scripts(f.Identifier("x"), f.Number("12"), f.Number("2")))
        self.assertEqual(read_formula("12.5"), f.Number("12.5"))
        self.assertEqual(
            read_formula("x^12"), f.Row((f.Scripts(f.Identifier("x"), None, f.Number("1")), f.Number("2")))
        )
        self.assertEqual(read_formula(r"\mathrm{Var}"), f.Identifier("Var", "upright"))
        self.assertEqual(read_formula(r"\frac12"), f.Fraction(f.Number("1"), f.Number("2")))

    def test_it_can_be_read_aloud(self) -> None:
        said = spoken(read_formula(r"\hat\beta = \sum_{i=1}^n x_i^2"))
        self.assertEqual(said, "beta hat equals the sum from i equals 1 to n of x sub i squared")

    def test_faults_have_their_place(self) -> None:
        cases = {
            r"\fraq{1}{2}": 0, r"x + \frac{1}{2": 12, "a & b": 2, "a } b": 2, r"\left( x": 0, r"x \right)": 2, r"\begin{matrx} x": 0,
            r"\begin{matrix} x": 0, r"\begin{cases} x \end{matrix}": 16, "x^2^3": 3, "x_": 1, r"\sqrt": 0, r"\big x": 5,
            "a \\\\ b": 2, "5%": 1, "a#b": 1, r"\not x": 0, r"\text x": 0, r"{a": 0, r"\begin{array}{x}a\end{array}": 0,
        }  # fmt: skip
        for latex, offset in cases.items():
            with self.subTest(latex), self.assertRaises(MathFault) as caught:
                read_formula(latex)
            self.assertEqual(caught.exception.offset, offset, latex)

    def test_near_misses_are_named(self) -> None:
        with self.assertRaises(MathFault) as caught:
            read_formula(r"\alhpa")
        self.assertIn(r"alpha", caught.exception.hint)


class Macros(unittest.TestCase):
    """Commands of the author's own."""

    MACROS = {
        "R": r"\mathbb{R}",
        "E": r"\operatorname{E}\left[#1\right]",
        "two": "#2 - #1",
        "loop": r"x\loop",
        "bad": r"\fraq",
    }

    def test_they_mean_what_is_written_out(self) -> None:
        cases = {r"\R^n": r"\mathbb{R}^n", r"\E{X\R}": r"\operatorname{E}\left[X\mathbb{R}\right]", r"\two a{bc}": "bc - a",
                 r"\E\R x": r"\operatorname{E}\left[\mathbb{R}\right] x", r"\Re": r"\Re"}  # fmt: skip
        for short, long in cases.items():
            with self.subTest(short):
                self.assertEqual(read_formula(short, self.MACROS), read_formula(long))

    def test_faults_stay_where_the_author_sees_them(self) -> None:
        for latex, offset in {r"a + \bad": 4, r"\E{x + \fraq}": 7, r"1 \loop": 2, r"\two{a}": 0, r"\R \E{a": 3}.items():
            with self.subTest(latex), self.assertRaises(MathFault) as caught:
                read_formula(latex, self.MACROS)
            self.assertEqual(caught.exception.offset, offset)


class Writing(unittest.TestCase):
    """Every formula comes through both outputs."""

    def test_mathml_is_well_formed_and_every_element_has_its_children(self) -> None:
        for latex in FORMULAS:
            with self.subTest(latex):
                formula = read_formula(latex)
                root = ET.fromstring(mathml(formula, spoken(formula), display=True).replace("&#x2061;", " "))
                for element in root.iter():
                    self.assertEqual(len(element), _ARITIES.get(element.tag, len(element)), ET.tostring(element))

    def test_the_typesetter_takes_every_formula_inline_and_in_display(self) -> None:
        lines = ['#import "sheet.typ": *', "#set document(title: [x])", "#set text(font: body-font)"]
        for latex in FORMULAS:
            formula = read_formula(latex)
            lines += [f"Inline #{equation(formula, spoken(formula), display=display)};\n" for display in (False, True)]
        with TemporaryDirectory() as place:
            for name, text in sheets_of(find_stationery("report", Path("p.md"))).items():
                Path(place, name).write_text(text, encoding="utf-8")
            Path(place, "page.typ").write_text("\n".join(lines), encoding="utf-8")
            fonts = typst.Fonts(include_system_fonts=False)
            typst.compile(Path(place, "page.typ"), font_paths=fonts, format="pdf", pdf_standards=["ua-1"])
