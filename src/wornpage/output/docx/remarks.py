"""Open comments of reviewers, as comments of the document, with their answers; so that they can be answered and closed there."""

from __future__ import annotations

import re
from collections.abc import Sequence
from html import unescape
from pathlib import Path

from msgspec import Struct

from wornpage.output.docx.xml import NAMESPACES
from wornpage.output.ooxml.xml import HEAD, escaped
from wornpage.source.comments import Note, placed, read_notes, stretch
from wornpage.source.units import units_of

_W14 = 'xmlns:w14="http://schemas.microsoft.com/office/word/2010/wordml"'
_W15 = 'xmlns:w15="http://schemas.microsoft.com/office/word/2012/wordml"'
_IGNORED = 'xmlns:mc="http://schemas.openxmlformats.org/markup-compatibility/2006" mc:Ignorable='
_RUN = re.compile(
    r'<w:r>(?P<look>(?:<w:rPr>(?:(?!</w:rPr>).)*</w:rPr>)?)<w:t xml:space="preserve">(?P<text>[^<]*)</w:t></w:r>'
)
_FIRST_KEY = 0x20000001
TYPES = {
    "comments": (
        "http://schemas.openxmlformats.org/officeDocument/2006/relationships/comments",
        "application/vnd.openxmlformats-officedocument.wordprocessingml.comments+xml",
    ),
    "commentsExtended": (
        "http://schemas.microsoft.com/office/2011/relationships/commentsExtended",
        "application/vnd.openxmlformats-officedocument.wordprocessingml.commentsExtended+xml",
    ),
}
"""By part: how it is led to, and what it is."""


class Said(Struct, frozen=True):
    """One comment or one answer."""

    author: str
    date: str
    text: str
    answers: int = -1
    """The number of the comment that it answers."""


class Threaded(Struct, frozen=True):
    """A comment with its answers."""

    numbers: tuple[int, ...]
    quote: str
    """The words it is about."""


class Remarks(Struct, frozen=True):
    """The comments that go out."""

    said: tuple[Said, ...] = ()
    at: dict[str, list[Threaded]] = {}
    """By the key of a unit: the comments on it."""

    def parts(self) -> dict[str, str]:
        """The parts that hold them; none where there are none."""
        if not self.said:
            return {}
        comments = "".join(_comment(number, one) for number, one in enumerate(self.said))
        states = "".join(_state(number, one) for number, one in enumerate(self.said))
        return {
            "comments": f'{HEAD}<w:comments {NAMESPACES} {_W14} {_IGNORED}"w14">{comments}</w:comments>',
            "commentsExtended": f'{HEAD}<w15:commentsEx {_W15} {_IGNORED}"w15">{states}</w15:commentsEx>',
        }


def remarks_for(page: Path, source: str) -> Remarks:
    """The open comments of a page that still have their words in it. Raises `UsageError` for a side file that is none."""
    notes = [note for note in read_notes(page) if not note.done]
    if not notes:
        return Remarks()
    said: list[Said] = []
    at: dict[str, list[Threaded]] = {}
    for one in placed(notes, units_of(source)):
        if one.key:
            first = len(said)
            said += [Said(one.note.author, one.note.date, one.note.text), *_answers(one.note, first)]
            at.setdefault(one.key, []).append(Threaded(tuple(range(first, len(said))), one.note.quote))
    return Remarks(tuple(said), at)


def _answers(note: Note, first: int) -> Sequence[Said]:
    return [Said(one.get("author", ""), one.get("date", ""), one.get("text", ""), first) for one in note.answers]


def around(made: str, thread: Threaded) -> str:
    """The runs of a paragraph with a comment on the words that it is about; on all of it where they are not found."""
    numbers = thread.numbers
    starts = "".join(f'<w:commentRangeStart w:id="{number}"/>' for number in numbers)
    ends = "".join(
        f'<w:commentRangeEnd w:id="{number}"/><w:r><w:commentReference w:id="{number}"/></w:r>' for number in numbers
    )
    runs = list(_RUN.finditer(made))
    text = "".join(unescape(one["text"]) for one in runs)
    begin, end = stretch(text, thread.quote)
    if begin < 0:
        return f"{starts}{made}{ends}"
    out, last, at = [], 0, 0
    for one in runs:
        words = unescape(one["text"])
        cuts = [(begin - at, starts), (end - at, ends)]
        here = [(place, sign) for place, sign in cuts if place < len(words) and place >= 0 and sign is starts]
        here += [(place, sign) for place, sign in cuts if 0 < place <= len(words) and sign is ends]
        if here:
            out += [made[last : one.start()], _cut(one, words, here)]
            last = one.end()
        at += len(words)
    return "".join([*out, made[last:]])


def _cut(run: re.Match[str], words: str, signs: Sequence[tuple[int, str]]) -> str:
    """A run in parts, with signs between them."""
    out, last = "", 0
    for place, sign in [*signs, (len(words), "")]:
        part = escaped(words[last:place])
        out += f'<w:r>{run["look"]}<w:t xml:space="preserve">{part}</w:t></w:r>' * bool(part) + sign
        last = place
    return out


def _comment(number: int, one: Said) -> str:
    initials = "".join(word[0] for word in one.author.split()[:3]).upper()
    date = f' w:date="{escaped(one.date)}"' if one.date else ""
    lines = one.text.split("\n")
    paragraphs = "".join(
        f'<w:p{_key(number) if at == len(lines) - 1 else ""}><w:r><w:t xml:space="preserve">{escaped(line)}</w:t></w:r></w:p>'
        for at, line in enumerate(lines)
    )
    about = f'w:id="{number}" w:author="{escaped(one.author or "?")}"{date} w:initials="{escaped(initials)}"'
    return f"<w:comment {about}>{paragraphs}</w:comment>"


def _key(number: int) -> str:
    return f' w14:paraId="{_FIRST_KEY + number:08X}"'


def _state(number: int, one: Said) -> str:
    parent = f' w15:paraIdParent="{_FIRST_KEY + one.answers:08X}"' if one.answers >= 0 else ""
    return f'<w15:commentEx w15:paraId="{_FIRST_KEY + number:08X}"{parent} w15:done="0"/>'
