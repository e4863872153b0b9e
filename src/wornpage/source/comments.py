"""Comments beside the page: `PAGE.comments.yaml`, which people read and programs keep."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator
from io import StringIO
from pathlib import Path

from msgspec import Struct
from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError

from wornpage.source.text import read_text
from wornpage.source.units import Source, units_of
from wornpage.tree.problem import Problem, Severity, UsageError
from wornpage.tree.span import Span

_SUFFIX = ".comments.yaml"


class Note(Struct):
    """A comment as it is kept."""

    author: str
    date: str
    text: str
    quote: str = ""
    around: str = ""
    """The paragraph it is about, as it read."""
    line: int = 0
    """Where that stood when it was collated."""
    done: bool = False
    answers: list[dict[str, str]] = []


def side_file(page: Path) -> Path:
    """Where the comments of a page are."""
    return page.with_name(page.name.removesuffix(".md") + _SUFFIX)


def read_notes(page: Path) -> list[Note]:
    """The comments of a page. Raises `UsageError` for a file that holds none."""
    path = side_file(page)
    try:
        held = YAML(typ="safe").load(path.read_text(encoding="utf-8"))
    except FileNotFoundError:
        return []
    except (OSError, UnicodeDecodeError, YAMLError) as error:
        said = re.sub(r"\s+", " ", str(error))
        raise UsageError(f"{path} cannot be read: {said}.") from None
    listed = held.get("comments") if isinstance(held, dict) else None
    if not isinstance(listed, list):
        raise UsageError(f"{path} holds no `comments:`.")
    return [_note(one, path) for one in listed]


def _note(held: object, path: Path) -> Note:
    if not isinstance(held, dict):
        raise UsageError(f"{path}: a comment has `author`, `date`, `text`, `quote`.")
    told = {str(key): value for key, value in held.items()}
    answers = [
        {str(key): str(value) for key, value in one.items()}
        for one in told.get("answers") or []
        if isinstance(one, dict)
    ]
    words = {name: str(told.get(name) or "") for name in ("author", "date", "text", "quote", "around")}
    line = told.get("line")
    return Note(**words, line=line if isinstance(line, int) else 0, done=bool(told.get("done")), answers=answers)


class Placed(Struct, frozen=True):
    """A comment, and what it is about in the page as it is now."""

    note: Note
    line: int
    column: int
    key: str = ""
    """Of the unit that it is about (`units.Unit.key`); empty where its words are no longer there."""


def placed(notes: Iterable[Note], source: Source) -> list[Placed]:
    """Where comments belong: in the paragraph that has their words, or is most like the one that had them."""
    said = [(unit, "".join(atom.text for atom in unit.atoms)) for unit in source.units]
    counted = [Counter(_words(text)) for _, text in said]
    made = []
    for note in notes:
        wanted = Counter(_words(note.around or note.quote))
        most = max(wanted.total(), 1)
        scores = [
            (sum((wanted & own).values()) / most + (bool(note.quote) and note.quote in text), -place)
            for place, ((_, text), own) in enumerate(zip(said, counted, strict=True))
        ]
        score, place = max(scores, default=(0.0, 0))
        if score < _ALIKE:
            made.append(Placed(note, max(note.line, 1), 1))
            continue
        unit, text = said[-place]
        begin, _ = stretch(text, note.quote)
        shown = [atom for atom in unit.atoms if atom.text]
        at = shown[begin].start if 0 <= begin < len(shown) else unit.start
        made.append(Placed(note, *source.line_of(at), unit.key))
    return made


_ALIKE = 0.4


def stretch(text: str, quote: str) -> tuple[int, int]:
    """Where the words of a quote stand in a text, from and to; if they are no longer there, what is most like them. -1 for neither."""
    begin = text.find(quote) if quote else -1
    if begin >= 0 or not quote:
        return begin, begin + len(quote) if quote else -1
    from difflib import SequenceMatcher

    wanted, found = _words(quote), list(re.finditer(r"\w+", text))
    own = [one[0] for one in found]
    same = SequenceMatcher(None, own, wanted, autojunk=False).find_longest_match()
    first = max(same.a - same.b, 0)
    inside = [at for at in range(first, min(first + len(wanted), len(own))) if own[at] in wanted]
    if not inside or len(inside) < _STILL * len(wanted):
        return -1, -1
    return found[inside[0]].start(), found[inside[-1]].end()


_STILL = 0.5
"""How many of a quote's words must still be there."""


def _words(text: str) -> list[str]:
    return re.findall(r"\w+", text)


def written(notes: Iterable[Note]) -> str:
    """The side file."""
    yaml = YAML()
    yaml.allow_unicode = True
    yaml.width = 120
    listed = []
    for note in notes:
        told: dict[str, object] = {
            "author": note.author, "date": note.date, "text": note.text, "quote": note.quote, "around": note.around,
            "line": note.line, "done": note.done,
        }  # fmt: skip
        if note.answers:
            told["answers"] = note.answers
        listed.append(told)
    held = StringIO()
    held.write("# Comments on the page, as reviewers made them in documents; `done: true` closes one.\n")
    yaml.dump({"comments": listed}, held)
    return held.getvalue()


def comment_problems(page: Path, name: str, text: str | None = None) -> Iterator[Problem]:
    """The open comments of a page, in its order; `text` is the page if it has been read already.

    Raises `PageError`, and `UsageError` for a side file that holds no comments.
    """
    notes = [note for note in read_notes(page) if not note.done]
    if not notes:
        return
    for one in sorted(
        placed(notes, units_of(read_text(page, name) if text is None else text)), key=lambda one: (one.line, one.column)
    ):
        note = one.note
        about = f" on “{note.quote}”" if note.quote else ""
        gone = "" if one.key else " (its words are no longer in the page)"
        answers = "".join(f" {answer.get('author')}: {answer.get('text')}" for answer in note.answers)
        what = f"{note.author}{about}{gone}: {note.text}{answers}"
        yield Problem(Span(name, one.line, one.column), what, severity=Severity.WARNING)
