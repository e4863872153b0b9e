"""The words inside `{insert …}`: a file, the names given to it, what it is repeated for; or code of a file."""

from __future__ import annotations

import ast
import re

from wornpage.source.header import parse_header
from wornpage.source.pieces import Piece
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span

_NAMED = re.compile(r"(?P<name>[^\W\d]\w*)=(?P<value>.+)$", re.DOTALL)
_FORMS = 'Write `{insert part.md name="value"}`, `{insert part.md for name in list}` or `{insert code file.py}`.'
_DEEPER = range(6)


def insert_mark(piece: Piece, raw: str) -> tuple[n.Insert | n.InsertedCode | None, Problem | None]:
    """The insert that `raw` writes; or what is wrong with it."""
    words = _words(re.sub(r"\s*\n\s*", " ", raw[len("{insert") : -1]))  # on several lines or on one, it says the same
    if not words:
        return None, Problem(piece.span, "this insert names no file.", _FORMS)
    try:
        if words[0] == "code" and len(words) > 1 and not words[1].startswith("for"):
            return _code(piece.span, words[1:]), None
        return _page(piece.span, words), None
    except _Fault as fault:
        return None, Problem(piece.span, fault.what, fault.hint)


class _Fault(Exception):
    def __init__(self, what: str, hint: str = _FORMS) -> None:
        super().__init__(what)
        self.what, self.hint = what, hint


def _page(span: Span, words: list[str]) -> n.Insert:
    named = words[1 : words.index("for")] if "for" in words else words[1:]
    target, items = _loop(words[words.index("for") + 1 :]) if "for" in words else ("", "")
    arguments: dict[str, str] = {}
    deeper = 0
    for word in named:
        match = _NAMED.match(word)
        if match is None:
            spaced = "Names and values stand on both sides of a `=`, without spaces: `name=value`."
            raise _Fault(f"{word!r} has no place in an insert.", spaced if "=" in named else _FORMS)
        if match["name"] == "deeper":
            if not match["value"].isdecimal() or int(match["value"]) not in _DEEPER:
                raise _Fault(f"`deeper` cannot be {match['value']}.", "It is a number from 0 to 5.")
            deeper = int(match["value"])
            continue
        if match["name"] in arguments:
            raise _Fault(f"{match['name']!r} is given twice.", "Keep one of them.")
        arguments[match["name"]] = match["value"]
    given = tuple(n.Argument(name, value) for name, value in arguments.items())
    return n.Insert(span, _unquoted(words[0]), given, target, items, deeper)


def _loop(words: list[str]) -> tuple[str, str]:
    """The names and the list of `name in list`."""
    if "in" not in words:
        raise _Fault("this insert does not say what it is repeated for.")
    cut = words.index("in")
    target, items = " ".join(words[:cut]), " ".join(words[cut + 1 :])
    try:
        ast.parse(f"for {target} in []: pass")
    except (SyntaxError, ValueError):
        raise _Fault(f"{target!r} is no name.") from None
    return target, _with_condition(target, items)


def _with_condition(target: str, items: str) -> str:
    """`rows if row.n > 3` as the list of those rows; anything else as it stands."""
    if " if " not in items:
        return items
    try:
        ast.parse(f"({items}\n)", mode="eval")  # a choice between two lists is an expression already
    except (SyntaxError, ValueError):
        given = target if "," not in target else f"({target})"
        return f"[{given} for {target} in {items}]"
    return items


def _code(span: Span, words: list[str]) -> n.InsertedCode:
    part, rest = "", []
    for word in words[1:]:
        if word.startswith("part="):
            part = _unquoted(word.removeprefix("part="))
        elif word != "run":
            rest.append(word)
    header = parse_header(" ".join(["python", "run", *rest]), span)
    if header.problems:
        raise _Fault(header.problems[0].what, header.problems[0].hint)
    options = tuple(n.RawOption(option.key, option.value, span) for option in header.options)
    return n.InsertedCode(span, _unquoted(words[0]), part, "run" in words[1:], header.label, options)


def _unquoted(word: str) -> str:
    return word[1:-1] if len(word) > 1 and word[0] == word[-1] and word[0] in "\"'" else word


def _words(text: str) -> list[str]:
    """`text` cut at spaces outside strings and brackets."""
    found, word, depth, quote, escaped = [], "", 0, "", False
    for letter in text:
        if quote:
            quote = "" if letter == quote and not escaped else quote
            escaped = letter == "\\" and not escaped
        elif letter in "\"'":
            quote = letter
        elif letter in "([{":
            depth += 1
        elif letter in ")]}":
            depth -= 1
        if letter.isspace() and not quote and depth <= 0:
            found.append(word)
            word = ""
        else:
            word += letter
    return [word for word in [*found, word] if word]
