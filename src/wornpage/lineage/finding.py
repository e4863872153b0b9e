"""What somebody means who points at something that a page shows: words, a label, a cell, a place in the source."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from wornpage.lineage.steps import Lineage
from wornpage.lineage.tracing import key_of_mark
from wornpage.tree import nodes as n
from wornpage.tree.heads import column_heads
from wornpage.tree.problem import near_miss
from wornpage.tree.span import Span
from wornpage.tree.table import Cell, Value
from wornpage.tree.walk import children, walk, words_of

_CELL = re.compile(r"#?([a-z0-9][a-z0-9.-]*)\s*\[(.+)\]$", re.DOTALL)
_PLACE = re.compile(r"(?:(.*[^\d:].*?):)?(\d+)(?::(\d+))?$")
_ALIKE = str.maketrans(
    {"\u00a0": " ", "\u202f": " ", "\u2009": " ", "\u2212": "-", "\u2011": "-", "\u2013": "-", "\u2019": "'"}
)
"""Signs that people type otherwise than they are printed."""
_AROUND = 60
"""Letters of the text around a value that are told."""


class Target(Struct, frozen=True):
    """Something that a page shows."""

    kind: str
    """`value`, `figure`, `table`, `cell`, `chunk`, `listing`, `equation`, `heading` or `words`."""
    said: str
    """What readers see: the value, or the caption."""
    span: Span
    step: str = ""
    """The key of the step that made it; empty for what stands in the page as it is."""
    label: str = ""
    around: str = ""
    """The text that it stands in."""
    exact: str = ""
    """Of a cell: the number before rounding."""
    beside: tuple[str, ...] = ()
    """Of words: the values in the same text, each with its place."""


def shown_of(page: n.Composed, lineage: Lineage) -> list[Target]:
    """Everything on the page that can be meant, in page order."""
    return list(_shown(page, lineage))


def find(query: str, page: n.Composed, lineage: Lineage) -> list[Target]:
    """Everything on the page that `query` may mean, in page order; the nearest kind alone. Raises `LookupError` with a hint for none."""
    query = query.strip()
    if "#" in query and not query.startswith("#"):
        query = "#" + query.rpartition("#")[2]  # as in the address of a page
    shown = shown_of(page, lineage)
    cell = _CELL.match(query)
    if cell:
        return _cells(cell[1], cell[2], page, shown)
    wanted = query.removeprefix("#")
    labelled = [one for one in shown if one.label == wanted and one.kind != "words"]
    if labelled:
        return labelled[:1]
    if wanted in lineage.steps:
        step = lineage.steps[wanted]
        return [Target("chunk", "", step.span, step.key, step.label)]
    said = [one for one in shown if one.kind in {"value", "cell"} and _says(one.said, _plain(query), whole=True)]
    place = _PLACE.match(query) if not said else None  # a number that is shown is meant before a line
    if place and (found := _at(place, shown, lineage)):
        return found
    return _worded(query, shown, lineage)


def _worded(query: str, shown: list[Target], lineage: Lineage) -> list[Target]:
    """What says just that, or asks just for that; else what has it among its words."""
    plain = _plain(query)
    asking = [
        one for one in shown if one.kind == "value" and one.step and _plain(lineage.steps[one.step].code) == plain
    ]
    for whole in (True, False):
        for kinds in (("value",), ("cell",), ("figure", "table", "listing"), ("heading", "words")):
            found = [one for one in shown if one.kind in kinds and _says(one.said, plain, whole)]
            if found and not whole:
                return [
                    replace(one, around=_near(_plain(one.said), plain), beside=_values_in(one, shown)) for one in found
                ]
            if found:
                return found
        if asking:
            return asking
    labels = [one.label for one in shown if one.label]
    values = [one.said for one in shown if one.kind in {"value", "cell"} and one.said]
    raise LookupError(near_miss(query, labels) or near_miss(query, values))


def _values_in(words: Target, shown: list[Target]) -> tuple[str, ...]:
    """The values that stand in a text."""
    if words.kind != "words":
        return ()
    span = words.span
    return tuple(
        f"{one.said} ({one.span})"
        for one in shown
        if one.kind == "value"
        and one.span.file == span.file
        and span.line <= one.span.line <= max(span.end_line, span.line)
    )


def _says(said: str, plain: str, whole: bool) -> bool:
    said = _plain(said)
    return bool(said) and (said == plain if whole else plain in said)


def _plain(words: str) -> str:
    return " ".join(words.translate(_ALIKE).split())


def _at(place: re.Match[str], shown: list[Target], lineage: Lineage) -> list[Target]:
    """What stands at a line of the page, or of a file that it inserts."""
    file, line, column = place[1] or "", int(place[2]), int(place[3] or 0)

    def fits(span: Span) -> bool:
        named = not file or span.file == file or span.file.endswith(f"/{file}")
        return named and span.line <= line <= max(span.end_line, span.line)

    values = [one for one in shown if one.kind == "value" and fits(one.span)]
    before = [one for one in values if column and one.span.line == line and one.span.column <= column]
    if before:
        return [max(before, key=lambda one: one.span.column)]
    if values:
        return values
    chunks = [step for step in lineage.steps.values() if step.kind == "chunk" and fits(step.span)]
    return [Target("chunk", "", step.span, step.key, step.label) for step in chunks]


# --- cells ------------------------------------------------------------------------------------


def _cells(label: str, asked: str, page: n.Composed, shown: list[Target]) -> list[Target]:
    """The cell of a table where a row and a column meet, by what stands at their heads or by their numbers."""
    known = next((one for one in shown if one.kind == "table" and one.label == label), None)
    blocks = [node for node in walk(page.blocks) if isinstance(node, n.TableBlock) and node.label == label]
    if known is None or not blocks:
        raise LookupError(near_miss(label, [one.label for one in shown if one.kind == "table"]))
    table = blocks[0].table
    words = [part.strip() for part in re.split(r",(?=(?:[^\"]*\"[^\"]*\")*[^\"]*$)", asked)]
    heads = [tuple(map(_plain, one)) for one in column_heads(table)]
    columns = list(map(" ".join, heads))
    names = [
        " ".join(_plain(words_of(cell)) for cell in row[: max(table.index_columns, 1)]) for row in table.plain_rows
    ]
    if len(words) != 2:
        raise LookupError(
            f"Name a row and a column: `{label}[{(names or ['row'])[0]}, {(columns or ['column'])[-1]}]`."
        )
    row, column = _among(words[0], names), _column(words[1], heads)
    if row is None or column is None:  # the other way round
        turned = _among(words[1], names), _column(words[0], heads)
        row, column = turned if None not in turned else (row, column)
    if row is None:
        raise LookupError(near_miss(words[0], names) or f"Its rows: {', '.join(names[:8])}.")
    if column is None:
        raise LookupError(near_miss(words[1], columns) or f"Its columns: {', '.join(columns)}.")
    exact = _exact(blocks[0], row, column)
    said = words_of(table.plain_rows[row][column])
    return [Target("cell", said, known.span, known.step, label, known.said, exact)]


def _among(word: str, names: list[str]) -> int | None:
    """Which of the names is meant; a number counts from 1 where nothing is called so."""
    plain = _plain(word.strip("\"'"))
    lowered = [one.lower() for one in names]
    if plain in names:
        return names.index(plain)
    if plain.lower() in lowered:
        return lowered.index(plain.lower())
    return int(plain) - 1 if plain.isdigit() and 0 < int(plain) <= len(names) else None


def _column(word: str, heads: list[tuple[str, ...]]) -> int | None:
    """The column that is meant by all of its heads, or by the last of them where that is no other's."""
    found = _among(word, list(map(" ".join, heads)))
    last = [one[-1] if one else "" for one in heads]
    return _among(word, last) if found is None and last.count(_plain(word.strip("\"'"))) == 1 else found


def _exact(block: n.TableBlock, row: int, column: int) -> str:
    """A number as it was before it was rounded for the table."""
    data = block.data
    if data is None or column >= len(data.columns) or row >= data.rows:
        return ""
    cell: Cell = data.columns[column].cells[row]
    content = cell.content if isinstance(cell, Value) else cell
    return repr(content) if isinstance(content, int | float) and not isinstance(content, bool) else ""


# --- all that is shown ------------------------------------------------------------------------


def _shown(page: n.Composed, lineage: Lineage) -> Iterator[Target]:
    """Everything that can be meant, in page order."""
    head = page.head
    titled = (*head.title, n.Text(Span("", 1), " "), *head.subtitle)
    yield from _values(titled, lineage, words_of(titled))
    for block in head.abstract:
        yield from _of_block(block, lineage, "")
    for block in page.blocks:
        yield from _of_block(block, lineage, "")


def _of_block(node: n.Node, lineage: Lineage, chunk: str) -> Iterator[Target]:
    """A block and all in it; `chunk` is the one that made it."""
    match node:
        case n.ChunkView(label=label, blocks=blocks):
            for block in blocks:
                yield from _of_block(block, lineage, label)
        case n.Figure() | n.TableBlock() | n.CodeBlock():
            kind = {n.Figure: "figure", n.TableBlock: "table"}.get(type(node), "listing")
            said = words_of(node.caption)
            if kind != "listing" or node.label:
                yield Target(kind, said, node.span, chunk, node.label, f"{node.word} {node.number}".strip())
            yield from _values(node.caption, lineage, said, chunk)
            if isinstance(node, n.TableBlock):
                yield from _of_cells(node, lineage, chunk, said)
        case n.Heading(children=inlines, label=label):
            yield Target("heading", words_of(inlines), node.span, chunk, label)
            yield from _values(inlines, lineage, words_of(inlines), chunk)
        case n.MathBlock(label=label, latex=latex):
            yield Target("equation", latex, node.span, chunk, label)
        case n.Paragraph(children=inlines):
            yield Target("words", words_of(inlines), node.span, chunk)
            yield from _values(inlines, lineage, words_of(inlines), chunk)
        case n.OutputText(text=text):
            yield Target("words", text, node.span, chunk)
        case _:
            for inner in children(node):
                yield from _of_block(inner, lineage, chunk)


def _of_cells(node: n.TableBlock, lineage: Lineage, chunk: str, caption: str) -> Iterator[Target]:
    for row in range(len(node.table.plain_rows)):
        for column, cell in enumerate(node.table.plain_rows[row]):
            marks = list(_values(cell, lineage, words_of(cell), chunk))
            yield from marks
            if not marks:
                exact = _exact(node, row, column) if chunk else ""
                yield Target("cell", words_of(cell), node.span, chunk, node.label, caption, exact)


def _values(inlines: n.Inlines, lineage: Lineage, around: str, chunk: str = "") -> Iterator[Target]:
    """The values of marks among words, and those in their notes."""
    for node in walk(inlines):
        if isinstance(node, n.Answered) and node.is_value:
            key = key_of_mark(node.span)
            step = key if key in lineage.steps else chunk
            yield Target("value", words_of(node.children), node.span, step, "", _near(around, words_of(node.children)))


def _near(around: str, said: str) -> str:
    at = around.find(said)
    begins = max(0, at - _AROUND // 2)
    words = around[begins : begins + len(said) + _AROUND]
    return " ".join(("…" * (begins > 0) + words + "…" * (begins + len(words) < len(around))).split())
