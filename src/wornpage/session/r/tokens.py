"""R code as a row of tokens: names, texts, numbers, signs, ends of lines. What cannot be read is a sign of its own."""

from __future__ import annotations

import re
from enum import Enum

from msgspec import Struct


class Kind(Enum):
    """What a token is."""

    NAME = "name"
    TEXT = "text"
    NUMBER = "number"
    SIGN = "sign"
    END = "end"
    """Of a line."""


class Token(Struct, frozen=True):
    """One token, with where it stands."""

    kind: Kind
    text: str
    """As written; of a name in backticks and of a text what stands within."""
    line: int
    column: int
    raw: str


_PARTS = re.compile(
    r"""
    (?P<space>[ \t\f\r\u00a0]+)
  | (?P<comment>\#[^\n]*)
  | (?P<end>\n)
  | (?P<raw>[rR](?P<quote>["'])(?P<dashes>-*)(?P<open>[(\[{]))
  | (?P<text>"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*')
  | (?P<tick>`(?:[^`\\]|\\.)*`)
  | (?P<number>0[xX][0-9a-fA-F]+(?:\.[0-9a-fA-F]*)?(?:[pP][+-]?\d+)?[Li]?|(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?[Li]?)
  | (?P<name>(?:[^\W\d_]|\.(?!\d))[\w.]*|\.)
  | (?P<sign><<-|->>|%[^%\n]*%|<-|->|\|>|\|\||&&|<=|>=|==|!=|:::|::|:=|\\|.)
    """,
    re.VERBOSE | re.DOTALL,
)
_CLOSING = {"(": ")", "[": "]", "{": "}"}
_ESCAPED = re.compile(r"\\(.)", re.DOTALL)


def tokens(code: str) -> list[Token]:
    """The tokens of code, without spaces and comments."""
    found: list[Token] = []
    at, line, start = 0, 1, 0
    while at < len(code):
        match = _PARTS.match(code, at)
        assert match is not None  # anything is a sign
        kind, text, end = match.lastgroup or "sign", match[0], match.end()
        if match["raw"]:
            closing = f"{_CLOSING[match['open']]}{match['dashes']}{match['quote']}"
            last = code.find(closing, end)
            inside, end = (code[end:last], last + len(closing)) if last >= 0 else (code[end:], len(code))
            found.append(Token(Kind.TEXT, inside, line, at - start + 1, code[at:end]))
        elif kind not in {"space", "comment"}:
            found.append(_token(kind, text, line, at - start + 1))
        breaks = code.count("\n", at, end)
        if breaks:
            line, start = line + breaks, code.rfind("\n", at, end) + 1
        at = end
    return found


def _token(kind: str, text: str, line: int, column: int) -> Token:
    match kind:
        case "end":
            return Token(Kind.END, text, line, column, text)
        case "text":
            return Token(Kind.TEXT, _ESCAPED.sub(r"\1", text[1:-1]), line, column, text)
        case "tick":
            return Token(Kind.NAME, _ESCAPED.sub(r"\1", text[1:-1]), line, column, text)
        case "number":
            return Token(Kind.NUMBER, text, line, column, text)
        case "name":
            return Token(Kind.NAME, text, line, column, text)
    return Token(Kind.SIGN, text, line, column, text)


def lines_within(code: str) -> set[int]:
    """Lines, counted from 1, that go on with what has begun above: within brackets, texts, or after an operator."""
    found: set[int] = set()
    depth, goes_on = 0, False
    for token in tokens(code):
        if token.kind is Kind.SIGN:
            depth += (token.text in {"(", "[", "{"}) - (token.text in {")", "]", "}"})
        if token.kind is Kind.END:
            if depth > 0 or goes_on:
                found.add(token.line + 1)
            continue
        found.update(range(token.line + 1, token.line + token.raw.count("\n") + 1))
        goes_on = token.kind is Kind.SIGN and token.text not in {")", "]", "}", ";"}
    return found
