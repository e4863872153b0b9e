"""Code and what chunks print, letter by letter, in the colours of the page."""

from __future__ import annotations

from collections.abc import Iterator

from wornpage.output.tex import letters
from wornpage.tree import nodes as n

_SIZES = ((96, "small"), (108, "footnotesize"), (122, "scriptsize"))
"""Letters that a line of 16 cm holds, and at which size."""
_MARK = "\u21aa "


def code_block(node: n.CodeBlock, room: float) -> str:
    """The lines of a block of code."""
    rows = [_spelled(line) for line in node.lines]
    options = [rf"numbers=left,firstnumber={node.first_number}"] if node.numbered else []
    return _verbatim("worncode", rows, options, room)


def output_block(node: n.OutputText, room: float) -> str:
    """What was printed, or said."""
    rows: list[list[tuple[str, str]]] = [[("", line)] for line in node.text.split("\n")]
    if node.cut:
        rows.append([("comment", f"… {node.cut}")])
    kind = {"notice": "wornnotice", "error": "wornerror"}.get(node.role, "wornoutput")
    return _verbatim(kind, rows, [], room)


def among_words(node: n.CodeBlock | n.OutputText) -> str:
    """The same where no block can stand, as in a note."""
    lines = (
        node.text.split("\n")
        if isinstance(node, n.OutputText)
        else ["".join(t.text for t in line.tokens) for line in node.lines]
    )
    return r"\\".join(rf"\texttt{{{letters.text(line.replace(' ', chr(0xA0)))}}}" for line in lines)


def _spelled(line: n.CodeLine) -> list[tuple[str, str]]:
    made = [(token.role, token.text) for token in line.tokens]
    return [*made, ("comment", f"  ({line.aside})")] if line.aside else made


def _verbatim(kind: str, rows: list[list[tuple[str, str]]], options: list[str], room: float) -> str:
    widest = max((sum(len(text.expandtabs(4)) for _, text in row) for row in rows), default=0)
    size, most = _size(widest, room)
    options += [rf"fontsize=\{size}"] if size != "small" else []
    lines = "\n".join(_written(part) for row in rows for part in _broken(row, most))
    chosen = f"[{','.join(options)}]" if options else ""
    return f"\\begin{{{kind}}}{chosen}\n{lines}\n\\end{{{kind}}}"


def _size(widest: int, room: float) -> tuple[str, int]:
    for holds, size in _SIZES:
        if widest <= holds * room / 16:
            return size, widest
    return _SIZES[1][1], int(_SIZES[1][0] * room / 16)


def _broken(row: list[tuple[str, str]], most: int) -> Iterator[list[tuple[str, str]]]:
    """A line in pieces that each fit."""
    part: list[tuple[str, str]] = []
    used = 0
    for role, text in row:
        rest = text.expandtabs(4)
        while used + len(rest) > most > len(_MARK):
            keep = most - used
            part.append((role, rest[:keep]))
            yield part
            rest, part, used = rest[keep:], [("comment", _MARK)], len(_MARK)
        part.append((role, rest))
        used += len(rest)
    yield part


def _written(row: list[tuple[str, str]]) -> str:
    return "".join(
        rf"\worn{role}{{{letters.verbatim(text)}}}" if role and text.strip() else letters.verbatim(text)
        for role, text in row
    )
