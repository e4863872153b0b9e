"""Authors, places, keywords and dates that a reviewer changes in a document's head."""

import unittest

from wornpage.collate.aligning import Piece
from wornpage.collate.letters import Letter, Paragraph
from wornpage.collate.particulars import Head
from wornpage.collate.report import applied

FRONT = """\
---
title: Damp
authors:
  - {name: Adaeze Okafor, affiliation: [Laboratory, Northgate branch], email: a@marlow.example, corresponding: yes}
  - {name: Imke Sandoval, affiliation: Laboratory}
  - name: Rei Tanaka
    affiliation: Millpond University
date: 2026-03-09
keywords: [paper, folding endurance, "acid: pH"]
---

Words.
"""
SHOWN = {
    "author": "Adaeze Okafor^1,2,*^, Imke Sandoval^1^, Rei Tanaka^3^",
    "affiliation": "^1^Laboratory",
    "date": "9 March 2026",
    "keywords": "Keywords\u2002paper, folding endurance, acid: pH",
}


def paragraph(text: str, style: str) -> Paragraph:
    """One of the head; what stands between carets is raised."""
    letters = [
        Letter(letter, frozenset({"superscript"} if at % 2 else ()))
        for at, part in enumerate(text.split("^"))
        for letter in part
    ]
    return Paragraph("title", letters, style=style)


class ParticularsTest(unittest.TestCase):
    def merged(self, style: str, after: str, page: str = FRONT, before: str = "") -> str:
        """The page after an edit; empty if nothing is done, and what is reported."""
        places = [Piece([paragraph(f"^{at}^{name}", "affiliation")]) for at, name in PLACES.items()]
        change = Head(page, places, places).change(paragraph(before or SHOWN[style], style), paragraph(after, style))
        self.told = [one.what for one in change.told] if change else []
        return applied(page, change.patches) if change else ""

    def becomes(self, style: str, after: str, *pairs: tuple[str, str]) -> None:
        wanted = FRONT
        for old, new in pairs:
            self.assertIn(old, wanted)
            wanted = wanted.replace(old, new)
        self.assertEqual(self.merged(style, after), wanted)

    def test_values_are_written_where_they_stand(self) -> None:
        self.becomes("author", SHOWN["author"].replace("Rei", "Reiko"), ("Rei ", "Reiko "))
        self.becomes("affiliation", "^1^Laboratory, old wing", ("[Laboratory,", "['Laboratory, old wing',"), ("n: Laboratory}", "n: 'Laboratory, old wing'}"))  # fmt: skip
        self.becomes("date", "10 April 2026", ("2026-03-09", "2026-04-10"))
        self.becomes("date", "Spring", ("2026-03-09", "Spring"))
        self.becomes("keywords", SHOWN["keywords"].replace("acid: pH", "yes"), ('"acid: pH"', "'yes'"))

    def test_lists_grow_shrink_and_change_their_order(self) -> None:
        self.becomes("keywords", SHOWN["keywords"] + ", damp", ('pH"]', 'pH", damp]'))
        self.becomes("keywords", "Keywords\u2002folding endurance, paper, acid: pH", ("paper, folding endurance", "folding endurance, paper"))  # fmt: skip
        gone = "  - {name: Imke Sandoval, affiliation: Laboratory}\n"
        self.becomes("author", "Adaeze Okafor^1,2,*^, Rei Tanaka^3^", (gone, ""))
        self.becomes(
            "author",
            SHOWN["author"] + ", Bo Ek^1,3^, Ada Lund2",
            ("    affiliation: Millpond University\n", "    affiliation: Millpond University\n  - {name: Bo Ek, affiliation: [Laboratory, Millpond University]}\n  - {name: Ada Lund, affiliation: Northgate branch}\n"),
        )  # fmt: skip

    def test_one_author_becomes_a_list(self) -> None:
        page = "---\ntitle: x\nauthors: Imke Sandoval\n---\n"
        made = self.merged("author", "Imke Sandoval, Bo Ek", page, "Imke Sandoval")
        self.assertEqual(made, page.replace("Imke Sandoval", "[Imke Sandoval, Bo Ek]"))

    def test_what_cannot_be_told_apart_is_left(self) -> None:
        for style, after in [
            ("keywords", "Words\u2002paper, folding endurance, acid: pH"),
            ("author", ""),
            ("affiliation", ""),
        ]:
            self.assertEqual(self.merged(style, after), "", after)
        self.merged("author", SHOWN["author"].replace("Tanaka^3", "Tanaka^2") + ", Bo Ek")
        self.assertIn("where Rei Tanaka belongs", self.told)
        noted = FRONT.replace("  - name: Rei", "  # last, since May \n  - name: Rei")
        gone = self.merged("author", "Adaeze Okafor^1,2,*^, Rei Tanaka^3^", noted)
        self.assertEqual(gone, "", "a comment would be lost")
        self.assertIn("# last", self.merged("author", SHOWN["author"] + ", Bo Ek", noted))


PLACES = {1: "Laboratory", 2: "Northgate branch", 3: "Millpond University"}
