"""Comments beside the page: `PAGE.comments.yaml`, which people read and programs keep."""

from __future__ import annotations

import re
from collections.abc import Iterable
from io import StringIO
from pathlib import Path

from msgspec import Struct
from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError

from wornpage.collate.report import Remark
from wornpage.tree.problem import UsageError

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


def with_remarks(notes: Iterable[Note], remarks: Iterable[Remark]) -> tuple[list[Note], int]:
    """Comments with those of a document: what is known already is brought up to date; how many are new."""
    made = list(notes)
    known = {(one.author, one.date, one.text): one for one in made}
    numbers: dict[str, Note] = {}
    new = 0
    for remark in remarks:
        if remark.answers in numbers:
            answer = {"author": remark.author, "date": remark.date, "text": remark.text}
            if answer not in numbers[remark.answers].answers:
                numbers[remark.answers].answers.append(answer)
                new += 1
            continue
        found = known.get((remark.author, remark.date, remark.text))
        if found is None:
            found = Note(
                remark.author, remark.date, remark.text, remark.quote, remark.around, remark.line, remark.done, []
            )
            made.append(found)
            new += 1
        found.done = found.done or remark.done
        numbers[remark.number] = found
    return made, new


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
