"""Comments of reviewers that are open, as findings: each where its words stand in the page now."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from wornpage.source.comments import placed, read_notes
from wornpage.source.text import read_text
from wornpage.source.units import units_of
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span

COMMENT = "comment"


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
