"""The record as the last section of a page."""

from __future__ import annotations

from collections.abc import Sequence

from wornpage.colophon.record import Colophon
from wornpage.compose.language import Language
from wornpage.tree import nodes as n
from wornpage.tree.span import Span

_SHORT = 12


def colophon_blocks(colophon: Colophon, language: Language, span: Span) -> n.Blocks:
    """Tables of what the page was made with, its data, and what each chunk showed."""
    heading = n.Heading(span, 1, (n.Text(span, language.colophon),), label="colophon")
    given = ", ".join(f"{name} = {_said(value, language)}" for name, value in colophon.given.items())
    facts = [
        (language.pressed_with, f"Worn Page {colophon.worn}, Python {colophon.python}, {colophon.system}"),
        (language.page_word, colophon.page[:_SHORT]),
        (
            language.libraries,
            ", ".join(f"{name} {version}" for name, version in colophon.packages.items()) or language.none,
        ),
        *([(language.given, given)] if given else []),
        *([(language.fonts, ", ".join(colophon.fonts))] if colophon.fonts else []),
        (language.weaknesses, "; ".join(colophon.weaknesses) or language.no_weakness),
    ]
    blocks: list[n.Block] = [heading, _table(span, (language.what, language.how), facts)]
    if colophon.data:
        blocks.append(
            _table(
                span, (language.file, language.holds), [(name, value[:_SHORT]) for name, value in colophon.data.items()]
            )
        )
    shown = [
        (chunk.label, chunk.seed, ", ".join(f"{s.kind} {s.digest[:8]}" for s in chunk.shown) or language.nothing)
        for chunk in colophon.chunks
    ]
    if shown:
        blocks.append(_table(span, (language.chunk, language.seed, language.shows), shown))
    return tuple(blocks)


def _said(value: str | list[str], language: Language) -> str:
    return value if isinstance(value, str) else f" {language.conjunction} ".join(value)


def _table(span: Span, heads: tuple[str, ...], rows: Sequence[tuple[str, ...]]) -> n.TableBlock:
    head = tuple(n.HeadCell((n.Text(span, word),)) for word in heads)
    body = tuple(tuple((n.Text(span, cell),) if cell else () for cell in row) for row in rows)
    return n.TableBlock(span, n.TextTable((head,), ("left",) * len(heads), body, 1), align="left")
