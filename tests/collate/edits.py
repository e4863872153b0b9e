"""Edits as reviewers make them, and what the source is to be afterwards: replacements of its text, or what is to be told."""

from __future__ import annotations

from typing import NamedTuple


class Case(NamedTuple):
    """One sort of edit."""

    edits: list[tuple]
    """Calls of `editing.Editor` and of `office.Editing`."""
    becomes: list[tuple[str, str]] = []
    """What stands in the source, and what is to stand there."""
    told: str = ""
    """What an edit is to be reported as, if it is not merged."""


CASES = {
    "a word": Case([("replace", "the rest is silence", "the rest is noise")], [("is silence", "is noise")]),
    "beside a value": Case([("replace", "it was damper", "it had been damper")], [("was damper", "had been damper")]),
    "in emphasis": Case([("insert_after", "autumn", " and winter")], [("*autumn*", "*autumn and winter*")]),
    "a sentence": Case([("delete", " A closed book needs weeks, an open one hours.")], [(" A closed book needs weeks, an open one hours.", "")]),
    "at a line end": Case([("insert_after", "from the river", ",")], [("the river\n", "the river,\n")]),
    "bold": Case([("look", "moving days", "b")], [("On moving days", "On **moving days**")]),
    "no longer slanted": Case([("look", "old books"[:3], "i", False)], [("_old_", "old")]),
    "bold for slanted": Case([("look", "autumn", "i", False), ("look", "autumn", "b")], [("*autumn*", "**autumn**")]),
    "slanted over the end of bold": Case(
        [("look", "mending. A tear", "i")], [("before mending.** A tear", "before *mending.*** *A tear*")]
    ),
    "a link": Case([("link", "the door", "https://door.example/in")], [("by the door", "by [the door](https://door.example/in)")]),
    "a heading": Case([("replace", "Outlook", "What comes next")], [("# Outlook", "# What comes next")]),
    "a heading with a label": Case([("replace", "Climate", "The climate")], [("# Climate {", "# The climate {")]),
    "the level of a heading": Case([("style", "What it costs", "Heading1")], [("## What", "# What")]),
    "an item": Case([("replace", "every evening", "each night")], [("every evening", "each night")]),
    "a new item": Case([("after", "every evening.", "Air the rooms at noon.")], [("- Keep", "- Keep"), ("evening.\n", "evening.\n- Air the rooms at noon.\n")]),
    "an item gone": Case([("take", "Keep the door")], [("- Keep the door *closed* in winter.\n", "")]),
    "a new number": Case([("after", "90 crowns a year", "Its noise costs nerves.")], [("a year.\n", "a year.\n3. Its noise costs nerves.\n")]),
    "a cell": Case([("replace", "800", "850")], [("|    800 |", "|    850 |")]),
    "a cell with a bar": Case([("replace", "Quayside", "Quay | east")], [("| Quayside    |", "| Quay \\| east |")]),
    "an empty cell": Case([("delete", "Millpond")], [("| Millpond    |", "|             |")]),
    "a new row": Case([("row_after", "Millpond", ["Northgate", "1,200", "3"])], [("     3 |\n", "     3 |\n| Northgate   |  1,200 |     3 |\n")]),
    "a row gone": Case([("take_row", "Millpond")], [("| Millpond    |    400 |     3 |\n", "")]),
    "parted": Case([("split", "That is")], [("hours. That", "hours.\n\nThat")]),
    "joined": Case([("join", "keeps her notes.")], [("notes.\n\nThe last", "notes. The last")]),
    "a new paragraph": Case([("after", "keeps her notes.", "A dryer hums.")], [("notes.\n", "notes.\n\nA dryer hums.\n")]),
    "a paragraph gone": Case([("take", "keeps her notes")], [("The caretaker keeps her notes.\n\n", "")]),
    "the last item gone": Case([("take", "It needs 90")], [("crowns.\n2. It needs 90 crowns a year.\n", "crowns.\n")]),
    "a list gone": Case(
        [("take", "A dryer costs"), ("take", "It needs 90")],
        [("1. A dryer costs 900 crowns.\n2. It needs 90 crowns a year.\n\n", "")],
    ),
    "the end gone": Case([("take", "The last word"), ("take", "Outlook"), ("take", "Nothing lasts")], [
        ("\n\nThe last word belongs to the caretaker: `df.mean()` is {= 2 ** 10 as thousands}.\n\n# Outlook\n\nNothing lasts, $x^2 + 1$ says.", "")
    ]),
    "a paragraph between items": Case(
        [("after", "Keep the door", "A word between.", "Normal")],
        [("winter.\n- Empty", "winter.\n\nA word between.\n\n- Empty")],
    ),
    "one more author": Case(
        [("insert_after", "Imke Sandoval", ", Bo Ek")], [("authors: Imke Sandoval", "authors: [Imke Sandoval, Bo Ek]")]
    ),
    "a caption": Case([("replace", "by day", "by week")], [("by day", "by week")]),
    "a note": Case([("replace", "two days are", "three days are")], [("two days", "three days")]),
    "in a box": Case([("replace", "Boxes have", "Boxes hold")], [("Boxes have", "Boxes hold")]),
    "a quotation": Case([("replace", "is patient", "is very patient")], [("is patient", "is very patient")]),
    "code": Case([("replace", "df.mean", "df.median")], [("df.mean", "df.median")]),
    "a line start": Case([("replace", "The last word", "1. The last word")], [("The last word", "1\\. The last word")]),
    "signs": Case(
        [("insert_after", "silence", " (5 * 3 * 2, a_b_c, [x](y), <tag>, {= x}, `q`, R&D &amp; *)")],
        [("silence", "silence (5 \\* 3 \\* 2, a_b_c, \\[x\\](y), \\<tag>, \\{= x}, \\`q\\`, R&D \\&amp; \\*)")],
    ),
    "a rewritten sentence": Case(
        [("replace", "The caretaker keeps her notes", "Nobody will have anything left")],
        [("The caretaker keeps her notes", "Nobody will have anything left")],
    ),
    "words around a formula": Case([("delete", "Nothing lasts, ")], [("Nothing lasts, ", "")]),
    "in a value": Case([("replace", "60", "65")], told="mark"),
    "a title": Case([("replace", "in the reading rooms", "in all rooms")], [("in the reading rooms\n", "in all rooms\n")]),
    "a title that YAML wants in marks": Case([("replace", "Damp in the", "Damp: in the")], [("Damp in the reading rooms\n", "'Damp: in the reading rooms'\n")]),
    "a subtitle": Case([("replace", "loggers say", "meters say")], [("loggers say", "meters say")]),
    "an abstract": Case([("replace", "say the thin leaves", "say thin leaves"), ("look", "paper, on", "b")], [("say the thin", "say thin"), ("paper, on", "**paper, on**")]),
    "a cell that is a bar": Case([("replace", "Quayside", "|")], [("| Quayside    |", "| \\|          |")]),
    "an author": Case([("insert_after", "Imke", " A.")], [("Imke Sandoval", "Imke A. Sandoval")]),
}  # fmt: skip
