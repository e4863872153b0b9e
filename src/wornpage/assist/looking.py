"""What stands at a place: the value a mark had, how a chunk stands, where a label, a work or a file is to be found."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec import Struct

from wornpage.assist.abroad import labels_abroad
from wornpage.assist.completing import told_of
from wornpage.assist.document import Document
from wornpage.compose.language import language_of
from wornpage.compose.values import FormFault, write_value
from wornpage.plan.languages import asked_in, main_of
from wornpage.plan.marks import MarkStore
from wornpage.plan.status import status_of
from wornpage.source.header import LABEL
from wornpage.source.marks.insert import insert_mark
from wornpage.source.marks.verbs import VERBS, opening
from wornpage.source.pieces import Piece
from wornpage.store.place import own_name, store_of
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError
from wornpage.tree.span import Span
from wornpage.tree.walk import walk, words_of

_MARK = re.compile(opening(*VERBS) + r"(?:[^{}\"']|\"[^\"]*\"|'[^']*'|\{[^{}]*\})*\}")
_WORD = re.compile(r"[\w:./-]*[\w-]")


class Place(Struct, frozen=True):
    """Somewhere in a file; line and column counted from 0."""

    file: str
    line: int
    column: int = 0


class Outline(Struct, frozen=True):
    """A heading or a chunk, with what stands under it."""

    name: str
    kind: str
    line: int
    last: int
    below: tuple[Outline, ...] = ()


def said_of(document: Document, line: int, column: int) -> str:
    """What there is to say of a place, in Markdown; empty for nothing."""
    mark = _mark_at(document, line, column)
    if mark is not None:
        verb, word = mark[1], _word_at(document, line, column)
        if verb == "=":
            return _value(document, line, mark.start())
        if verb == "see" and word in document.labels:
            one = document.labels[word]
            return f"**{one.kind}** `{word}`, line {one.span.line}\n\n{one.words}"
        if verb == "see" and (there := labels_abroad(document).get(word)):
            return f"**{there.at.kind}** `{word}`, {there.path.name}:{there.at.span.line}\n\n{there.at.words}"
        if verb == "cite" and word in document.library.entries:
            return told_of(document.library.entries[word])
        return ""
    chunk = document.chunk_at(line)
    return _standing(document, chunk) if chunk is not None and line == chunk.span.line - 1 else ""


def _mark_at(document: Document, line: int, column: int) -> re.Match[str] | None:
    if not 0 <= line < len(document.lines):
        return None
    return next((m for m in _MARK.finditer(document.lines[line]) if m.start() <= column <= m.end()), None)


def _word_at(document: Document, line: int, column: int) -> str:
    if not 0 <= line < len(document.lines):
        return ""  # an editor may ask of a text that it has changed since
    return next((m[0] for m in _WORD.finditer(document.lines[line]) if m.start() <= column <= m.end()), "")


def _value(document: Document, line: int, column: int) -> str:
    """What a value mark showed when the page was last pressed."""
    for node in walk(document.page.blocks):
        if (
            isinstance(node, n.ValueMark)
            and (node.span.line, node.span.column) == (line + 1, column + 1)
            and not node.span.within
        ):
            language = asked_in(node, main_of(document.page, document.settings))
            known = MarkStore(store_of(document.path) / "marks", own_name(document.path), use=True).last(node, language)
            if known is None:
                return "not pressed yet"
            try:
                return write_value(known, node.form, None, language_of(document.settings.page.language))
            except FormFault as fault:
                return str(fault)
    return ""


def _standing(document: Document, chunk: n.Chunk) -> str:
    try:
        found = next(
            (one for one in status_of(document.page, document.settings).chunks if one.label == chunk.label), None
        )
    except PageError:
        return ""
    if found is None:
        return ""
    took = f", {found.seconds:.2f} s" if found.seconds is not None else ""
    return f"`{chunk.label}` is **{'fresh' if found.fresh else 'stale'}**{took}\n\n{found.why}"


def defined_at(document: Document, line: int, column: int) -> Place | None:
    """Where the label, the work or the file at a place is defined."""
    mark = _mark_at(document, line, column)
    word = _word_at(document, line, column)
    folder = document.path.parent
    if mark is None:
        return None
    if mark[1] == "see" and word in document.labels:
        return _place(document, document.labels[word].span)
    if mark[1] == "see" and (there := labels_abroad(document).get(word)):
        return Place(str(there.path), there.at.span.line - 1, there.at.span.column - 1)
    if mark[1] == "cite" and word in document.library.entries:
        span = document.library.entries[word].span
        return Place(str(folder / span.file), span.line - 1, max(span.column - 1, 0))
    if mark[1] == "insert":
        span = Span(document.path.name, line + 1, mark.start() + 1)
        made, _ = insert_mark(Piece("mark", mark[0], span), mark[0])
        if made is None or not made.file:
            return None
        file = folder / made.file
        return Place(str(file), 0) if file.is_file() else None
    return None


def _place(document: Document, span: Span) -> Place:
    file = document.path if span.file == document.path.name else document.path.parent / span.file
    return Place(str(file), span.line - 1, span.column - 1)


# --- labels everywhere ------------------------------------------------------------------------


def label_at(document: Document, line: int, column: int) -> str:
    """The label that stands at a place, used or defined; empty for none."""
    word = _word_at(document, line, column).lstrip("#")
    return (
        next((label for found, _, _, label in _uses(document, word) if found == line), "")
        if word in document.labels
        else ""
    )


def unfit(document: Document, label: str) -> str:
    """Why something cannot be called so; empty if it can."""
    if not LABEL.fullmatch(label):
        return f"{label!r} is no label: a label has letters, digits and `-`"
    return f"{label!r} is the label of something else in this page" if label in document.labels else ""


def uses_of(document: Document, label: str) -> list[tuple[int, int, int]]:
    """Line, first and last column of every place in the page where a label stands."""
    return [(line, first, last) for line, first, last, _ in _uses(document, label)]


def _uses(document: Document, label: str) -> Iterator[tuple[int, int, int, str]]:
    word = rf"(?<![\w.-]){re.escape(label)}(?![\w-])"
    contexts = (
        r"\{see\s[^{}]*\}",  # pointers
        r"\{[^{}]*#[^{}]*\}",  # attributes
        r"^\s*(?:`{3,}|~{3,}).*$",  # headers of chunks
        r"^\s*Label:\s*\S+",
        r"\]\(#[^)]*\)",
    )
    top = ""
    for line, text in enumerate(document.lines):
        if line < document.front_lines:
            top = text if text[:1].strip() else top
            around = [(0, text)] if top.startswith("chunks:") else []
            wanted = word + r"(?=\s*:)"
        else:
            around = [(found.start(), found[0]) for context in contexts for found in re.finditer(context, text)]
            wanted = word
        firsts = {start + match.start() for start, part in around for match in re.finditer(wanted, part)}
        yield from ((line, first, first + len(label), label) for first in sorted(firsts))


# --- outline ----------------------------------------------------------------------------------


def outline(document: Document) -> list[Outline]:
    """Headings and chunks, nested as the headings are."""
    flat: list[tuple[int, str, str, int]] = []
    for node in walk(document.page.blocks):
        if node.span.file != document.path.name or node.span.within:
            continue
        if isinstance(node, n.Heading):
            flat.append((node.level, words_of(node.children) or "…", "heading", node.span.line - 1))
        elif isinstance(node, n.Chunk):
            flat.append((9, node.label, "chunk", node.span.line - 1))
    return list(_nested(flat, len(document.lines) - 1))


def _nested(flat: list[tuple[int, str, str, int]], last: int) -> Iterator[Outline]:
    while flat:
        level, name, kind, line = flat.pop(0)
        end = next((place for place, one in enumerate(flat) if one[0] <= level), len(flat))
        below, flat = flat[:end], flat[end:]
        stop = flat[0][3] - 1 if flat else last
        yield Outline(name, kind, line, max(stop, line), tuple(_nested(below, stop)))
