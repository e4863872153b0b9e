"""A source in reStructuredText with its results in place: all that its author wrote stays, letter by letter.

Two things follow what values say: the line under a title is made as long as the title has become, and a value in a drawn
table takes the room that its role took, or is named there and said at the end of the file.
"""

from __future__ import annotations

import re

from wornpage.output.hosted import results_of
from wornpage.output.kind import Job
from wornpage.output.rst.letters import at_beginning, width
from wornpage.output.rst.running import BREAK, indented
from wornpage.output.rst.writer import RstWriter, target
from wornpage.source.hosts import rst
from wornpage.source.hosts.hosted import Literal
from wornpage.tree import nodes as n
from wornpage.tree.span import Span

_ADORNMENT = re.compile(r"([!-/:-@[-`{-~])\1+[ ]*$")
_BORDER = re.compile(r"[ ]*(?:=+(?:[ ]+=+)+|\+(?:[-=]+\+)+)[ ]*$")


def filled_source(page: n.Composed, job: Job, writer: RstWriter) -> str:
    """The source of `job` with what `writer` makes of each of the page's chunks and values."""
    values: dict[Span, n.Inlines] = {
        block.span: block.children for block in page.blocks if isinstance(block, n.Paragraph)
    }
    made = results_of(page, lambda block: "" if isinstance(block, n.Paragraph) else writer.block(block))
    lines, names = job.source.split("\n"), dict[str, str]()
    text, changed = "", set[int]()
    source = rst.read(job.source, job.name)
    labels = {one.span: one.label for one in source.blocks if isinstance(one, n.Chunk) and one.named}
    for piece in source.pieces:
        if isinstance(piece, Literal):
            text += piece.text
            continue
        before = text[text.rfind("\n") + 1 :]
        if piece not in values:
            result = made.get(piece, "")
            if result and labels.get(piece, "") and labels[piece] not in writer.running.goals:
                result = target(labels[piece]) + result  # which the author may point at
            text += indented(result, len(before)).lstrip()
            continue
        said = writer.running.words(values[piece], at_beginning=False).replace(BREAK, " ").replace("\n", " ")
        said = said if before.strip() else at_beginning(said)
        changed.add(text.count("\n"))
        text += _in_table(said, _raw(lines, piece), names) if _is_drawn(lines, piece.line - 1) else said
    ends = [f".. {name} replace:: {said}" for name, said in names.items()]
    more = "\n\n".join(filter(None, [writer.at_end(), "\n".join(ends)]))
    return _underlined(text, changed) + (f"\n{more}\n" if more else "")


def _raw(lines: list[str], place: Span) -> int:
    """How many columns a role takes that stands in one line."""
    found = rst.MARK.match(lines[place.line - 1], place.column - 1)
    return found.end() - found.start() if found else 0


def _is_drawn(lines: list[str], at: int) -> bool:
    """Whether a line belongs to a table that is drawn."""
    begins = at
    while begins and lines[begins - 1].strip():
        begins -= 1
    ends = at
    while ends + 1 < len(lines) and lines[ends + 1].strip():
        ends += 1
    return any(_BORDER.match(line) for line in lines[begins : ends + 1])


def _in_table(said: str, room: int, names: dict[str, str]) -> str:
    """A value with as many columns as its role took."""
    if width(said) > room:
        name = f"|worn{len(names) + 1}|"
        names[name], said = said, name
    return said + " " * (room - width(said))


def _underlined(text: str, changed: set[int]) -> str:
    """The text with lines below, and above, the titles in `changed` made as long as these are."""
    lines = text.split("\n")
    for at in changed:
        needs = width(lines[at].rstrip())
        below = _ADORNMENT.match(lines[at + 1]) if at + 1 < len(lines) else None
        if below is None or needs <= len(lines[at + 1].rstrip()):
            continue
        is_same = at > 0 and lines[at - 1].rstrip() == lines[at + 1].rstrip()
        lines[at + 1] = below[1] * needs
        if is_same:
            lines[at - 1] = below[1] * needs
    return "\n".join(lines)
