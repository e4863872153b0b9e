"""Comments of documents: the place in the source that each is about, and those among them that the page has already."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from wornpage.collate.blocks import short
from wornpage.collate.letters import Comment, Document
from wornpage.collate.report import Remark
from wornpage.collate.work import Old, Work
from wornpage.source.comments import Note


class Remarks:
    """Finds what comments are about."""

    def __init__(self, work: Work, old: Sequence[Old]) -> None:
        self.work, self.old = work, old

    def of(self, document: Document) -> list[Remark]:
        """All comments of a document."""
        return [self._remark(document, comment) for comment in document.comments.values()]

    def _remark(self, document: Document, comment: Comment) -> Remark:
        quote, around, key = "", "", ""
        for paragraph in document.paragraphs:
            letters = [letter for letter in paragraph.letters if comment.number in letter.comments]
            if letters and not quote:
                around = paragraph.text
                key = next((letter.key for letter in letters if "_" in letter.key), "") or next(
                    iter(paragraph.keys), ""
                )
            quote += "".join(letter.text for letter in letters)
        line, _, column = key.partition("_")
        if comment.number in self.work.commented:
            place = self.work.source.line_of(self.work.commented[comment.number])
        else:
            place = (int(line), int(column)) if column else self._place_in_text(around)
        return Remark(
            comment.number,
            comment.author,
            comment.date,
            comment.text,
            *place,
            quote,
            short(around, 200),
            comment.answers,
            comment.done,
        )

    def _place_in_text(self, around: str) -> tuple[int, int]:
        """Where the words around a comment are written, where no bookmark tells."""
        for old in self.old:
            if old.unit is not None and around and old.piece.text.strip() == around.strip():
                return self.work.source.line_of(old.unit.start)
        return 1, 1


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
