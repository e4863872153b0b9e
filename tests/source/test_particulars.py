"""Authors, keywords and dates as the front matter has them: each value lies where it is said to lie, and another fits there."""

import datetime
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from ruamel.yaml import YAML

from tests.support import FolderCase
from wornpage.source.particulars import Value, particulars_of, scalar

FORMS = (
    "authors: Imke Sandoval",
    "authors: [Imke Sandoval, 'Rei Tanaka', \"Ó Briain\"]",
    "authors:\n  - Imke Sandoval  # who wrote it\n  - name: Rei Tanaka\n    affiliation: Laboratory\n    email: rei@marlow.example",
    "authors:\n- {name: Imke Sandoval, affiliation: [Laboratory, 'The Bindery']}\n- {name: Rei Tanaka}",
    "authors: [{name: Imke Sandoval, email: i@marlow.example}, Rei Tanaka]",
    "keywords: [paper, 'damp, and mould']\ndate: 2026-03-09",
    "keywords:\n\n  - paper\n  # the next is new\n  - damp",
    "date: in spring\nrunning-title: Paper",
)
Name = st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z")) | st.just(" "), min_size=1, max_size=14)


def read(text: str) -> Any:
    """The front matter, as YAML has it; days as they are written."""
    return YAML(typ="base", pure=True).load(text.split("---\n")[1])


def at(held: Any, path: tuple[str | int, ...]) -> Any:
    """What is at a path."""
    for step in path:
        held = held[step]
    return held


def page(*forms: str) -> str:
    """A page with some lines at its head."""
    return "---\ntitle: ünï — 紙\n" + "\n".join(forms) + "\n---\n\nWords.\n"


class Particulars(FolderCase):
    def test_each_value_lies_where_it_is_said_to(self) -> None:
        for form in FORMS:
            text = page(form)
            found = particulars_of(text)
            self.assertTrue(found.values, form)
            for value in found.values:
                self.assertEqual(at(read(text), value.path), value.text)
                self.assertEqual(text[value.start : value.end].strip("'\""), value.text)
            for row in found.rows:
                self.assertEqual(len(at(read(text), row.path)), len(row.items))

    def test_what_is_not_understood_is_left_alone(self) -> None:
        for form in (
            'authors: ["Imke \\"I\\" Sandoval"]', "authors: ['O''Hara']", "keywords: >\n  paper\n  damp", "authors:\n  name: |\n    Imke",
            "author: Imke", "authors: []", "authors:", "keywords: [[paper, [damp",
        ):  # fmt: skip
            self.assertEqual(particulars_of(page(form)).values, (), form)
        self.assertEqual(particulars_of("No front matter at all.").values, ())
        self.assertEqual(particulars_of("---\n- a list\n---\n").values, ())

    @settings(deadline=None, max_examples=150)
    @given(st.sampled_from(FORMS), Name, st.integers(0, 5))
    def test_another_text_takes_its_place_and_nothing_else_changes(self, form: str, name: str, which: int) -> None:
        text = page(form)
        values = particulars_of(text).values
        value = values[which % len(values)]
        said = name.strip() or "x"
        made = text[: value.start] + value.written(said) + text[value.end :]
        before, after = read(text), read(made)
        self.assertEqual(at(after, value.path), said, made)
        held = at(after, value.path[:-1])
        held[value.path[-1]] = value.text
        self.assertEqual(after, before)
        again = {one.path: one.text for one in particulars_of(made).values}
        self.assertIn(again.get(value.path, said), {said}, "what can be read of it is what was written")

    @settings(deadline=None, max_examples=300)
    @given(Name, st.booleans())
    def test_a_text_stays_a_text_in_yaml(self, name: str, in_flow: bool) -> None:
        said = name.strip() or "x"
        made = scalar(said, in_flow)
        whole = f"[{made}, next]" if in_flow else f"- {made}\n- next"
        self.assertEqual(YAML(typ="safe", pure=True).load(whole), [said, "next"], made)

    def test_signs_that_yaml_takes_for_something_else(self) -> None:
        for said in ("yes", "No", "null", "~", "1.5", "0x1F", "-.inf", "# no remark", "a: b", "- x", "[x]", "{x}", "*x", "&x", "!x", "%x", "@x", "`x", "'x'", '"x"', "x #y", "|", ">"):  # fmt: skip
            for in_flow in (True, False):
                value = Value(("date",), "", 0, 0, in_flow)
                whole = f"[{value.written(said)}]" if in_flow else f"- {value.written(said)}"
                self.assertEqual(YAML(typ="safe", pure=True).load(whole), [said])
        day = YAML(typ="safe", pure=True).load(f"- {scalar('2026-03-09', in_flow=False)}")
        self.assertIn(day, (["2026-03-09"], [datetime.date(2026, 3, 9)]), "a day may stay one")
