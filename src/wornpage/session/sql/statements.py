"""SQL as statements, each with where it begins and the values that it asks for. Nothing is imported but the standard library."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple

_TOKENS = re.compile(
    r"""
    (?P<comment>--[^\n]*|/\*.*?(?:\*/|\Z))
  | (?P<text>'(?:[^']|'')*(?:'|\Z))
  | (?P<quoted>"(?:[^"]|"")*(?:"|\Z))
  | (?P<dollar>\$(?P<tag>[A-Za-z_]\w*|)\$.*?(?:\$(?P=tag)\$|\Z))
  | (?P<cast>::)
  | (?P<value>(?<![\w\]:]):(?P<name>[A-Za-z_]\w*))
  | (?P<word>[^\W\d]\w*)
  | (?P<end>;)
  | (?P<other>.)
    """,
    re.VERBOSE | re.DOTALL,
)
_READING = frozenset("SELECT WITH VALUES FROM TABLE EXPLAIN DESCRIBE DESC SHOW SUMMARIZE PIVOT UNPIVOT PRAGMA".split())
_CHANGING = frozenset("INSERT UPDATE DELETE MERGE".split())
_CLOCK = frozenset(
    "NOW CURRENT_DATE CURRENT_TIME CURRENT_TIMESTAMP LOCALTIME LOCALTIMESTAMP TODAY GETDATE SYSDATE CLOCK_TIMESTAMP "
    "STATEMENT_TIMESTAMP TRANSACTION_TIMESTAMP GET_CURRENT_TIME GET_CURRENT_TIMESTAMP".split()
)
_CHANCE = frozenset("RANDOM RAND UUID GEN_RANDOM_UUID NEWID RANDOMBLOB SETSEED UUIDV4 UUIDV7 NEXTVAL CURRVAL".split())
_BARE = frozenset("CURRENT_DATE CURRENT_TIME CURRENT_TIMESTAMP LOCALTIME LOCALTIMESTAMP".split())


class Asked(NamedTuple):
    """A value that a statement asks for, as `:name`."""

    name: str
    start: int
    """Letters of the statement before its colon."""


class Statement(NamedTuple):
    """One statement."""

    text: str
    start: int
    """Letters of the chunk before it."""
    asked: tuple[Asked, ...]
    words: tuple[str, ...]
    """Its words in capitals, outside of texts and comments."""
    texts: tuple[str, ...]
    """What stands in single quotes."""

    @property
    def reads_only(self) -> bool:
        """Whether it changes nothing in a database, as far as its words tell."""
        first = self.words[0] if self.words else ""
        return first in _READING and _CHANGING.isdisjoint(self.words) and "INTO" not in self.words[1:]

    @property
    def makes_anew(self) -> bool:
        """Whether it makes the same of a database whatever that held under the name before."""
        first = self.words[:3]
        return first in {("CREATE", "OR", "REPLACE")} or (self.words[:1] == ("DROP",) and "EXISTS" in self.words)

    def with_values(self, as_written: str) -> str:
        """Its text with the values asked for as a database writes them, such as `${}`; of the same length where `as_written` is."""
        made, at = [], 0
        for one in self.asked:
            made += [self.text[at : one.start], as_written.format(one.name)]
            at = one.start + len(one.name) + 1
        return "".join([*made, self.text[at:]])


def statements(code: str) -> list[Statement]:
    """The statements of a chunk, without those that are empty."""
    found: list[Statement] = []
    start = 0
    for match in _TOKENS.finditer(code):
        if match.lastgroup == "end":
            found += _one(code, start, match.start())
            start = match.end()
    found += _one(code, start, len(code))
    return found


def _one(code: str, start: int, end: int) -> Iterator[Statement]:
    asked, words, texts = [], [], []
    first = -1
    for match in _TOKENS.finditer(code, start, end):
        kind = _kind(match)
        if kind not in {"comment", "other"} or (kind == "other" and not match[0].isspace()):
            first = match.start() if first < 0 else first
        if kind == "value":
            asked.append((match["name"], match.start()))
        elif kind == "word":
            words.append(match[0].upper())
        elif kind == "text":
            texts.append(match[0][1:-1].replace("''", "'"))
    if words:
        text = code[first:end].rstrip()
        places = tuple(Asked(name, at - first) for name, at in asked)
        yield Statement(text, first, places, tuple(words), tuple(texts))


def _kind(match: re.Match[str]) -> str:
    return next(
        kind
        for kind in ("comment", "text", "quoted", "dollar", "cast", "value", "word", "end", "other")
        if match[kind] is not None
    )


def fleeting(code: str) -> str:
    """The first word that gives another value each time it is asked for; empty for none."""
    matches = [match for match in _TOKENS.finditer(code) if _kind(match) == "word"]
    for match in matches:
        word = match[0].upper()
        is_called = code[match.end() :].lstrip().startswith("(")
        if word in _BARE or (is_called and word in _CLOCK | _CHANCE):
            return f"{match[0]}()" if is_called else match[0]
    return ""


def words_in(code: str) -> frozenset[str]:
    """Words that may be names, as written."""
    found = {match[0] for match in _TOKENS.finditer(code) if _kind(match) == "word"}
    quoted = {match[0][1:-1] for match in _TOKENS.finditer(code) if _kind(match) == "quoted"}
    return frozenset(found | quoted | {match["name"] for match in _TOKENS.finditer(code) if match["name"]})


def place_of(code: str, offset: int) -> tuple[int, int]:
    """Line and column, both counted from 1, of a letter of the code."""
    before = code[:offset]
    return before.count("\n") + 1, len(before) - (before.rfind("\n") + 1) + 1


def normal_form(code: str) -> list[str]:
    """Its tokens, without comments and spaces."""
    return [m[0] for m in _TOKENS.finditer(code) if _kind(m) != "comment" and not m[0].isspace()]
