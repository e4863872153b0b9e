"""Comments of documents among those that are kept beside the page."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.collate.report import Remark
from wornpage.source.comments import Note


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
