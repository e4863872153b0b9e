"""What readers pick given values with."""

from __future__ import annotations

import datetime
import re
import unittest

from hypothesis import given
from hypothesis import strategies as st

from wornpage.output.html.fields import field
from wornpage.settings.givens import Declared, GivenFault

STRANGE = (
    "",
    "\0",
    "nan",
    "inf",
    "-inf",
    "1e999",
    "1e-400",
    "41",
    "200",
    "-5",
    "４２",
    "1_0",
    "0x10",
    "2026-13-40",
    "yes",
    "x\ny",
)
DECLARED = (
    Declared("a", "whole number", least=40, most=80, step=5),
    Declared("a", "whole number", least=-3, most=3),
    Declared("a", "number", least=0, most=1),
    Declared("a", "number", least=1e-9, most=1e-6),
    Declared("a", "date", least=datetime.date(2026, 1, 1)),
    Declared("a", "text", one_of=("x", "y")),
    Declared("a", "number", one_of=(1.0, 2.5)),
    Declared("a", "text", required=True),
    Declared("a", "yes/no"),
    Declared("a", "list", one_of=("x", "y")),
    Declared("a", "list"),
)


class Fields(unittest.TestCase):
    def test_each_kind_has_its_own(self) -> None:
        day = datetime.date(2026, 3, 1)
        wanted = [
            (Declared("a", "text", one_of=("x", "y")), "y", "<select", '<option value="y" selected'),
            (Declared("a", "whole number", least=0, most=10), 3, 'type="range"', 'max="10"'),
            (Declared("a", "number", least=0, most=1), 0.25, 'type="range"', 'step="0.01"'),
            (Declared("a", "number", least=0, most=10_000, step=1), 3, 'type="number"', 'step="1"'),
            (Declared("a", "number", least=0, unit="m²"), 0.5, 'type="number"', 'step="any"'),
            (Declared("a", "date", least=day), day, 'type="date"', 'min="2026-03-01"'),
            (Declared("a", "yes/no"), True, 'type="checkbox"', "checked"),
            (Declared("a", "list"), ["x", "y"], 'type="text"', 'value="x, y"'),
            (Declared("a", "list", one_of=("x", "y")), ["y"], "<fieldset", 'value="y" checked'),
            (Declared("a", "text"), "short", 'type="text"', 'value="short"'),
            (Declared("a", "text"), "two\nlines", "<textarea", "two\nlines"),
            (Declared("a", "text", required=True), None, "required", 'value=""'),
        ]
        for one, value, *parts in wanted:
            for part in parts:
                with self.subTest(kind=one.kind, part=part):
                    self.assertIn(part, field(one, value))

    def test_a_slider_never_shows_another_value(self) -> None:
        made = field(Declared("a", "number", least=0, most=1), 0.123456)
        self.assertIn('type="number"', made)
        self.assertIn('value="0.123456"', made)

    @given(st.sampled_from(DECLARED), st.one_of(st.text(), st.sampled_from(STRANGE), st.floats().map(str), st.none()))
    def test_whatever_somebody_wrote_stands_in_a_field_and_is_not_taken_for_another_value(
        self, one: Declared, value: str | None
    ) -> None:
        try:
            shown = one.value(value) if value is not None else None
        except GivenFault:
            shown = value
        made = field(one, shown)
        self.assertEqual(made.count('data-given="a"'), 1)
        if 'type="range"' in made:
            low, high = one.least or 0, one.most or 0
            self.assertTrue(low <= float(re.findall(r' value="([^"]*)"', made)[0]) <= high)
        if "<select" in made:
            self.assertEqual(made.count(" selected"), 1)

    def test_all_is_data(self) -> None:
        nasty = '"><script>alert(1)</script>'
        one = Declared("a", "text", unit=nasty, title=nasty, help=nasty)
        for made in (
            field(one, nasty),
            field(Declared("a", "text", one_of=(nasty,)), nasty),
            field(Declared("a", "list", one_of=(nasty,)), [nasty]),
        ):
            self.assertNotIn("<script", made)

    def test_labels_lead_to_their_fields(self) -> None:
        made = field(Declared("damp-above", "number", help="Help."), 1)
        self.assertEqual(re.findall(r'<label for="([^"]*)"', made), re.findall(r'<input[^>]* id="([^"]*)"', made))
        self.assertIn(">Damp above<", made)
        for place in re.findall(r'aria-describedby="([^"]*)"', made)[0].split():
            self.assertIn(f'id="{place}"', made)
