"""The letters of a page with their places: written again from where they stand, they give the same bytes."""

import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from wornpage.source.units import Source, Unit, units_of

ROOT = Path(__file__).parents[2]
PAGES = sorted(
    [*ROOT.glob("tests/**/*.md"), *ROOT.glob("src/wornpage/**/*.md"), *ROOT.glob("docs/*.md"), *ROOT.glob("*.md")]
)


def again(unit: Unit, text: str) -> str:
    """A unit written from its own letters."""
    out: list[str] = []
    stack: list[int] = []
    for atom in unit.atoms:
        shared = 0
        while shared < min(len(stack), len(atom.styles)) and stack[shared] == atom.styles[shared]:
            shared += 1
        while len(stack) > shared:
            out.append(unit.styles[stack.pop()].close)
        for one in atom.styles[shared:]:
            stack.append(one)
            out.append(unit.styles[one].open)
        out.append(text[atom.start : atom.end])
    while stack:
        out.append(unit.styles[stack.pop()].close)
    return "".join(out)


class Units(unittest.TestCase):
    def same(self, source: Source) -> None:
        for unit in source.units:
            self.assertEqual(again(unit, source.text), source.text[unit.start : unit.end], unit.key)

    def test_all_pages_of_the_project_give_their_own_bytes(self) -> None:
        count = 0
        for path in PAGES:
            if "node_modules" not in path.parts:
                with self.subTest(path=path.name):
                    source = units_of(path.read_text(encoding="utf-8").replace("\r\n", "\n").replace("\r", "\n"))
                    self.same(source)
                    count += len(source.units)
        self.assertGreater(count, 1_500)

    @given(
        st.lists(st.sampled_from(["word", "*em*", "**st *in* r**", "`co  de`", "`` a`b ``", "{= x}", "\\*", "&lt;", "[a](b \"t\")", "[r][q]", "<https://a.b>", "$y$", "~~s~~", "[^n]", "<b>t</b>", "![i](p.png)", "{see a}"]), min_size=1, max_size=9),
        st.sampled_from(["{}", "- {}\n- x", "> {}\n> y", "# {} {{#l}}", "1. x\n\n   {}", "| a |\n|---|\n| {} |", "Caption: {}", ":::: note\n{}\n::::", "- [ ] {}", "t\n: {}", "{}\n==="]),
        st.sampled_from([" ", "\n", "\\\n"]),
    )  # fmt: skip
    def test_so_do_made_up_ones(self, parts: list[str], around: str, between: str) -> None:
        is_line = any(sign in around for sign in ("|", "#", "Caption", "- ", "> ", "1."))
        text = around.format((" " if is_line else between).join(parts)) + "\n\n[q]: there\n\n[^n]: A *note*.\n"
        self.same(units_of(text))

    def test_kinds_and_tables_are_told(self) -> None:
        text = "# H {#l}\n\np\n\n- [x] i\n  - j\n\n    k\n\n> q\n\n| a |\n|--:|\n| b \\| c |\n\nCaption: c\n\nt\n: m[^n]\n\n[^n]: n\n"
        found = [(unit.kind, unit.level, "".join(atom.text for atom in unit.atoms)) for unit in units_of(text).units]
        self.assertEqual(found, [
            ("h", 1, "H"), ("p", 0, "p"), ("li", 1, "i"), ("li", 2, "j"), ("item", 2, "k"), ("quote", 0, "q"), ("cell", 0, "a"),
            ("cell", 0, "b | c"), ("caption", 0, "c"), ("term", 0, "t"), ("meaning", 0, "m"), ("note", 0, "n"),
        ])  # fmt: skip

    def test_texts_of_the_front_matter_are_letters_too_where_they_are_understood(self) -> None:
        text = "---\ntitle: A *b* {= c}\nsubtitle: 'd: e'\nabstract: >-\n  One\n  two\n\n  three {= x}.\nother: y\n---\n\n# H\n"
        source = units_of(text)
        self.same_letters(source, [("title", "2_8"), ("title", "3_11"), ("abstract", "5_1"), ("h", "12_3")])
        for other in (
            'title: "a \\" b"',
            "title: >\n  a\n    b",
            "abstract: >\n  a\n    b",
            "title: 'a''b'",
            "title:",
            "title: a # b",
            "title: {a: b}",
        ):
            self.assertEqual([unit.kind for unit in units_of(f"---\n{other}\n---\n\n# H\n").units], ["h"], other)

    def same_letters(self, source: Source, wanted: list[tuple[str, str]]) -> None:
        self.assertEqual([(unit.kind, unit.key) for unit in source.units], wanted)
        for unit in source.units:
            for atom in unit.atoms:
                there = source.text[atom.start : atom.end]
                self.assertTrue(
                    there == (atom.raw or atom.text) or (atom.text.isspace() and there.isspace()), (atom, there)
                )
