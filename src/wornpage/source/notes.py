"""Footnotes that lead nowhere: called and not written, written and not called, or written twice."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from markdown_it.token import Token as MdToken

from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity, near_miss
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

_WRITTEN = re.compile(r"^[ \t>*+-]*\[\^(?P<label>[^\]\s]+)\]:")
_CALLED = re.compile(r"(?<!\\)\[\^(?P<label>[^\]\s]+)\](?!:)")
_CODE = re.compile(r"(?<!\\)(`+)(?!`).*?(?<!`)\1(?!`)")
_HINT = "Call it with [^{label}], or take it away."


def note_problems(
    tokens: Sequence[MdToken], known: Mapping[str, Any], blocks: n.Blocks, lines: Sequence[str], file: str
) -> Iterator[Problem]:
    """What is wrong with the notes of a page; `known` is what the parser has found of them, by `:` and label."""
    labels = [label.removeprefix(":") for label in known]
    code = {line for token in tokens if token.type in {"fence", "code_block", "html_block"} and token.map
            for line in range(*token.map)}  # fmt: skip
    first: dict[str, int] = {}
    for number, text in enumerate(lines):
        found = _WRITTEN.match(text) if number not in code else None
        if found is None or found["label"] not in labels:
            continue
        label, at = found["label"], Span(file, number + 1, found.start("label") - 1)
        if label in first:
            what = f"the note {label!r} is written in line {first[label]} already, and only one of them can be shown."
            yield Problem(at, what, "Give one of them another name.")
        elif known[f":{label}"] < 0:
            yield Problem(
                at,
                f"nothing calls the note {label!r}, so it is not shown.",
                _HINT.format(label=label),
                Severity.WARNING,
            )
        first.setdefault(label, number + 1)
    yield from _called_in_vain(blocks, lines, labels, code)


def _called_in_vain(blocks: n.Blocks, lines: Sequence[str], labels: list[str], code: set[int]) -> Iterator[Problem]:
    if not any("[^" in line for line in lines):
        return
    told: set[tuple[int, int]] = set()
    for node in walk(blocks):
        if not isinstance(node, n.Text) or "[^" not in node.text:
            continue
        last = min(max(node.span.end_line, node.span.line), len(lines))
        for number in (one for one in range(node.span.line, last + 1) if one - 1 not in code):
            for found in _CALLED.finditer(_without_code(lines[number - 1])):
                label, at = found["label"], (number, found.start() + 1)
                if found[0] in node.text and label not in labels and at not in told:
                    told.add(at)
                    hint = near_miss(label, labels) or f"Write its words in a line that begins with {found[0]}:"
                    what = f"there is no note {label!r}, so {found[0]} stands in the text as it is."
                    yield Problem(node.span.at(*at), what, hint, Severity.WARNING)


def _without_code(line: str) -> str:
    """A line with blanks in place of its pieces of code."""
    return _CODE.sub(lambda code: " " * len(code[0]), line)
