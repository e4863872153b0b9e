"""Made-up edits by the hundred: whatever is done, nothing is lost, nothing is made up, and no byte elsewhere changes."""

import random
import re

from tests.collate.editing import Editor, W, text_of
from tests.collate.pages import SIGNS, Writer
from tests.collate.test_collate import SOURCE, CollateCase
from tests.support import FolderCase
from wornpage.collate.collating import Asked, collate
from wornpage.collate.rebasing import changes
from wornpage.collate.report import Edit
from wornpage.press import press
from wornpage.source.units import units_of

_WORDS = ("never", "damp", "(old)", "*starred*", "a_b", "10%", "&", "x", "<b>", "|", "{see plan}")
_ROUNDS = 120
_PAGES = 20
_BY_HAND = {
    "mark",
    "mark taken out",
    "title taken away",
    "new title",
    "em",
    "strong",
    "look of new words",
    "paragraph split",
}
"""What is told, and done by hand: values; titles, which stay one; signs of looks that would stand against a sign."""


class Edits(CollateCase):
    def test_all_is_accounted_for(self) -> None:
        keys = {unit.key for unit in units_of(SOURCE).units}
        for seed in range(_ROUNDS):
            with self.subTest(seed=seed):
                by = random.Random(seed)
                editor = Editor(self.folder / "page.docx", "Ada Lund" if seed % 2 else "")
                done = [one for _ in range(by.randint(1, 4)) if (one := _edit(editor, by, keys))]
                made = self.collated(editor.save(self.folder / "edited.docx"))
                self.assertEqual(made.doubts, [], done)
                self.assertLessEqual({edit.outcome for edit in made.edits}, {"merged", "reported"})
                for patch in changes(SOURCE, made.text):
                    near = SOURCE[max(patch.start - 400, 0) : patch.end + 400]
                    self.assertTrue(
                        any(_words(said) & _words(near) for _, said in done) or not patch.text.strip(), (done, patch)
                    )


class Blocks(FolderCase):
    """Paragraphs and items that are moved, put in and taken out, several at once."""

    def test_all_stand_as_in_the_document(self) -> None:
        names = ("ash birch", "cedar dogwood", "elm fir", "ginkgo hazel", "ivy juniper", "larch maple", "oak pine")
        lines = [f"The leaf of {name} is pressed." for name in names]
        items = ["- First the thin ones", "- Then the thick ones", "- Last the wet ones"]
        source = "# Leaves\n\n" + "\n\n".join([*lines[:4], "\n".join(items), *lines[4:]]) + "\n"
        page = self.write("leaves.md", source.encode())
        press(page, ["docx"])
        for seed in range(60):
            with self.subTest(seed=seed):
                by = random.Random(seed)
                editor = Editor(self.folder / "leaves.docx")
                for _ in range(by.randint(2, 6)):
                    _change_blocks(editor, by)
                wanted = [text for one in _blocks(editor) if (text := text_of(one))]
                made = collate(Asked(page, (editor.save(self.folder / "back.docx"),)))
                self.assertEqual((made.doubts, made.count("reported")), ([], 0))
                said = ["".join(atom.text for atom in unit.atoms) for unit in units_of(made.text).units]
                self.assertEqual(said[1:], wanted)
                self.assertNotIn("\n\n\n", made.text)


class MadeUpPages(FolderCase):
    """Pages of all that running text can hold, edited in one or two places, plain or tracked."""

    def test_what_comes_back_stands_in_the_source(self) -> None:
        for seed in range(_PAGES):
            source = Writer(seed).page()
            page = self.write("page.md", source.encode())
            press(page, ["docx"])
            keys = {unit.key for unit in units_of(source).units}
            for turn in range(4):
                with self.subTest(seed=seed, turn=turn):
                    by = random.Random(seed * 10 + turn)
                    editor = Editor(self.folder / "page.docx", "Ada Lund" if turn % 2 else "")
                    done = [one for _ in range(by.randint(1, 2)) if (one := _edit(editor, by, keys, SIGNS))]
                    made = collate(Asked(page, (editor.save(self.folder / "back.docx"),)))
                    self.assertEqual(made.doubts, [], done)
                    told = {_told(edit) for edit in made.edits if edit.outcome != "merged"}
                    self.assertLessEqual(told, _BY_HAND, done)
                    if not told:
                        self.assertEqual(_paragraphs(self.pressed(made.text)), _paragraphs(editor), done)

    def pressed(self, text: str) -> Editor:
        press(self.write("again.md", text.encode()), ["docx"])
        return Editor(self.folder / "again.docx")


def _told(edit: Edit) -> str:
    return f"title: {edit.what}" if edit.line == 2 and edit.what == "paragraph split" else edit.what


def _paragraphs(editor: Editor) -> list[str]:
    """What a document says, changes accepted; a note that nothing calls any more is none."""
    for gone in [one for one in editor.root.iter(f"{W}del") if one.getparent().tag != f"{W}rPr"]:
        gone.getparent().remove(gone)
    said: list[str] = []
    joins = False
    for one in editor.root.iter(f"{W}p"):
        text = text_of(one)
        said, joins = ([*said[:-1], said[-1] + text] if joins else [*said, text]), _is_taken(one)
    return [made for text in said if (made := " ".join(text.split()).replace(" .", ".")) not in {"", "Abstract"}]


def _is_taken(paragraph) -> bool:
    return paragraph.find(f"{W}pPr/{W}rPr/{W}del") is not None


def _blocks(editor: Editor) -> list:
    return [one for one in editor.root.iter(f"{W}p") if re.match("The leaf|First|Then|Last|New", text_of(one))]


def _change_blocks(editor: Editor, by: random.Random) -> None:
    one, other = by.sample(_blocks(editor), 2)
    match by.choice(["move", "move", "new", "gone"]):
        case "move":
            other.addnext(one)
        case "new":
            editor.after(text_of(one), f"New is leaf {by.randint(100, 999)}.")
        case "gone":
            editor.take(text_of(one))


def _edit(editor: Editor, by: random.Random, keys: set[str], words: tuple[str, ...] = _WORDS) -> tuple[str, str] | None:
    """One edit of a paragraph that is written in the page; what was done, and what the paragraph said."""
    paragraphs = [one for one in editor.root.iter(f"{W}p") if _is_text(one, keys) and len(text_of(one).split()) > 1]
    paragraph = by.choice(paragraphs)
    text = text_of(paragraph)
    places = [found.span() for found in re.finditer(r"\S+", text)]
    first = by.randrange(len(places))
    last = min(len(places) - 1, first + by.randrange(4))
    old = text[places[first][0] : places[last][1]]
    if text.count(old) != 1:
        return None
    new = " ".join(by.choice(words) for _ in range(by.randint(1, 3)))
    editor.paragraph = lambda _: paragraph  # type: ignore[method-assign]
    what = by.choice(["insert", "delete", "replace", "bold", "slanted", "after", "take", "split"])
    match what:
        case "insert":
            editor.insert_after(old, f" {new}")
        case "delete":
            editor.delete(old)
        case "replace":
            editor.replace(old, new)
        case "bold" | "slanted":
            editor.look(old, what[0] if what == "bold" else "i")
        case "after" if not _in_cell(paragraph):
            editor.after(text, f"{new} sentence.")
        case "take" if not _in_cell(paragraph):
            editor.take(text)
        case "split" if not _in_cell(paragraph) and first:
            editor.split(text[places[first][0] :])
    return what, text


def _is_text(paragraph, keys: set[str]) -> bool:
    names = [mark.get(f"{W}name", "") for mark in paragraph.iter(f"{W}bookmarkStart")]
    style = paragraph.find(f"{W}pPr/{W}pStyle")
    is_contents = style is not None and style.get(f"{W}val", "").startswith("TOC")
    return not is_contents and any(name.removeprefix("_wp_b") in keys for name in names)


def _in_cell(paragraph) -> bool:
    return paragraph.getparent().tag == f"{W}tc"


def _words(text: str) -> set[str]:
    return set(re.findall(r"\w{3,}", text))
