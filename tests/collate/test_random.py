"""Made-up edits by the hundred: whatever is done, nothing is lost, nothing is made up, and no byte elsewhere changes."""

import random
import re

from tests.collate.editing import Editor, W, text_of
from tests.collate.test_collate import SOURCE, CollateCase
from wornpage.collate.rebasing import changes
from wornpage.source.units import units_of

_WORDS = ("never", "damp", "(old)", "*starred*", "a_b", "10%", "&", "x", "<b>", "|", "{see plan}")
_ROUNDS = 120


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


def _edit(editor: Editor, by: random.Random, keys: set[str]) -> tuple[str, str] | None:
    """One edit of a paragraph that is written in the page; what was done, and what the paragraph said."""
    paragraphs = [one for one in editor.root.iter(f"{W}p") if _is_text(one, keys) and len(text_of(one).split()) > 1]
    paragraph = by.choice(paragraphs)
    text = text_of(paragraph)
    places = [found.span() for found in re.finditer(r"\S+", text)]
    first = by.randrange(len(places))
    last = min(len(places) - 1, first + by.randrange(4))
    words = text[places[first][0] : places[last][1]]
    if text.count(words) != 1:
        return None
    new = " ".join(by.choice(_WORDS) for _ in range(by.randint(1, 3)))
    editor.paragraph = lambda _: paragraph  # type: ignore[method-assign]
    what = by.choice(["insert", "delete", "replace", "bold", "slanted", "after", "take", "split"])
    match what:
        case "insert":
            editor.insert_after(words, f" {new}")
        case "delete":
            editor.delete(words)
        case "replace":
            editor.replace(words, new)
        case "bold" | "slanted":
            editor.look(words, what[0] if what == "bold" else "i")
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
