"""Code ready to be shown: coloured by role, asides gathered, lines picked out."""

from __future__ import annotations

import re
from functools import cache
from itertools import pairwise
from typing import Any

from msgspec import Struct

from wornpage.compose.documentation import Documentation, Link
from wornpage.session.languages import suffix_of
from wornpage.source import build_inlines
from wornpage.store.blocks import BlockCache
from wornpage.store.packages import version_of
from wornpage.tree.nodes import CodeLine, Inlines, Text, Token, ValueMark
from wornpage.tree.span import Span
from wornpage.tree.walk import rewrite

_ASIDE = re.compile(r"\s*# ?~(\+)?[ \t]*(.*)$")
_ROLES = (
    ("Comment", "comment"), ("Keyword.Constant", "constant"), ("Keyword", "keyword"), ("Literal.String.Doc", "comment"),
    ("Literal.String", "string"), ("Literal.Number", "number"), ("Operator.Word", "keyword"), ("Name.Function", "name"),
    ("Name.Class", "name"), ("Name.Decorator", "name"), ("Name.Builtin.Pseudo", "constant"), ("Name.Builtin", "builtin"),
    ("Name.Tag", "keyword"), ("Name.Attribute", "name"), ("Generic.Deleted", "number"), ("Generic.Inserted", "string"),
    ("Generic.Heading", "keyword"),
)  # fmt: skip


class ShownCode(Struct, frozen=True):
    """Code with its colours and the notes to its lines."""

    lines: tuple[CodeLine, ...]
    asides: tuple[str, ...]
    """The author's notes to lines, in order; line n of the list has number n + 1."""


def show_code(
    code: str, language: str, turns: tuple[tuple[int, ...], ...] = (), documentation: Documentation | None = None
) -> ShownCode:
    """`code` in lines of coloured tokens; lines picked out in `turns` are counted from 1; names are linked to their documentation."""
    bare, numbers, asides = _take_asides(code.rstrip("\n").split("\n"))
    lines = _highlight("\n".join(bare), language)
    if documentation is not None and language in {"python", "py"}:
        links = documentation.links("\n".join(bare))
        lines = tuple(_linked(line, links[number]) if number in links else line for number, line in enumerate(lines))
    shown = tuple(
        CodeLine(tokens, any(index + 1 in turn for turn in turns), numbers.get(index, 0), _turns_of(index + 1, turns))
        for index, tokens in enumerate(lines)
    )
    return ShownCode(shown, tuple(asides))


def _turns_of(line: int, turns: tuple[tuple[int, ...], ...]) -> tuple[int, ...]:
    """In which turns a line is picked out; in one that names none, all are. None where there is but one turn."""
    return tuple(at for at, turn in enumerate(turns, 1) if line in turn or not turn) if len(turns) > 1 else ()


def aside_inlines(words: str, span: Span) -> Inlines:
    """The words of an aside; they stand in code, so a value mark among them is the text it is."""
    inlines, _ = build_inlines(words, span)
    made: Inlines = rewrite(inlines, lambda node: _as_written(node) if isinstance(node, ValueMark) else None)
    return made


def _as_written(mark: ValueMark) -> Text:
    form = f" as {mark.form}" if mark.form else ""
    return Text(mark.span, f"{{= {mark.expression}{form}}}")


def _linked(line: tuple[Token, ...], links: list[Link]) -> tuple[Token, ...]:
    """A line whose tokens are cut where links begin and end."""
    cuts = sorted({column for begin, end, _ in links for column in (begin, end)})
    made: list[Token] = []
    column = 0
    for token in line:
        inner = [cut - column for cut in cuts if column < cut < column + len(token.text)]
        for begin, end in pairwise([0, *inner, len(token.text)]):
            link = next((address for first, last, address in links if first <= column + begin < last), "")
            made.append(Token(token.text[begin:end], token.role, link))
        column += len(token.text)
    return tuple(made)


def _take_asides(lines: list[str]) -> tuple[list[str], dict[int, int], list[str]]:
    """The lines without their asides, which line has which number, and the words."""
    bare: list[str] = []
    numbers: dict[int, int] = {}
    asides: list[str] = []
    for line in lines:
        match = _ASIDE.search(line)
        if match and match[1] and asides and not line[: match.start()].strip():
            asides[-1] += " " + match[2].strip()
        elif match and not match[1]:
            asides.append(match[2].strip())
            bare.append(line[: match.start()])
            numbers[len(bare) - 1] = len(asides)
        else:
            bare.append(line)
    return bare, numbers, asides


def _highlight(code: str, language: str) -> tuple[tuple[Token, ...], ...]:
    """Lines of tokens; what has been coloured before is taken from the cache."""
    suffix = suffix_of(language).removeprefix(".")  # a program is called as anybody likes
    key = (language, suffix, code, version_of("pygments"))
    known = _cache.get(*key)
    if known is None:
        lines = _coloured(code, language, suffix)
        _cache.put([[[token.text, token.role] for token in line] for line in lines], *key)
        return lines
    return tuple(tuple(Token(text, role) for text, role in line) for line in known)


_cache = BlockCache("code")


def _coloured(code: str, language: str, suffix: str = "") -> tuple[tuple[Token, ...], ...]:
    lexer = _lexer(language) or _lexer(suffix)
    if lexer is None:
        return _plain(code)
    lines: list[list[Token]] = [[]]
    for kind, text in lexer.get_tokens(code + "\n"):  # some read whole lines only
        role = _role(kind)
        for number, part in enumerate(text.split("\n")):
            if number:
                lines.append([])
            if part:
                _append(lines[-1], part, role)
    if "".join(token.text for line in lines for token in line) != code.replace("\n", ""):
        return _plain(code)  # the lexer has dropped or changed something
    count = code.count("\n") + 1
    return tuple(tuple(line) for line in lines[:count])


def _plain(code: str) -> tuple[tuple[Token, ...], ...]:
    return tuple((Token(line, ""),) if line else () for line in code.split("\n"))


def _append(line: list[Token], text: str, role: str) -> None:
    if line and (line[-1].role == role or not text.strip()):
        line[-1] = Token(line[-1].text + text, line[-1].role)
    else:
        line.append(Token(text, role))


@cache
def _role(kind: object) -> str:
    name = str(kind).removeprefix("Token.")
    return next((role for prefix, role in _ROLES if name.startswith(prefix)), "")


@cache
def _lexer(language: str) -> Any:
    """The lexer for a language by any of its names; None where there is none."""
    if not language:
        return None
    from pygments.util import ClassNotFound

    try:
        if language in {"python", "py"}:
            from pygments.lexers.python import PythonLexer

            return PythonLexer(stripnl=False, ensurenl=False)
        from pygments.lexers import get_lexer_by_name

        return get_lexer_by_name(language, stripnl=False, ensurenl=False)
    except ClassNotFound:
        return None
