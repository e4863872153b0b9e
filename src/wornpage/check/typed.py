"""Numbers in prose that somebody has typed, and that the page has computed: they stay as they are when the data change."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

from msgspec.structs import replace

from wornpage.compose.language import language_of
from wornpage.compose.values import FormFault, write_value
from wornpage.plan.manifest import colophon_file
from wornpage.session.results import Answer
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.tree import nodes as n
from wornpage.tree.brackets import split_form
from wornpage.tree.language import Language
from wornpage.tree.problem import Problem
from wornpage.tree.walk import children

_FORMS = ("", "thousands", "0 decimals", "1 decimals", "2 decimals", "3 decimals", "percent")
_NUMBER = re.compile(
    r"(?<![\w.,'’#-])[\u2212-]?\d[\d.,'’\u00a0\u202f ]*\d(?:[\u00a0\u202f ]?%)?(?![\w])|(?<![\w.,#-])\d+[\u00a0\u202f ]?%"
)
_YEAR = re.compile(r"(?:1[5-9]|20)\d\d$")
_APART = (n.Link, n.Footnote, n.Code, n.Math, n.RawMath, n.Image)
"""Running text that speaks of other things: addresses, code, formulas."""


def typed_numbers(page: Page, settings: Settings) -> Iterator[Problem]:
    """Numbers in prose that are written as a value would be that a mark of the page had when it was last pressed."""
    known = _known(page, language_of(settings.page.language))
    if not known:
        return
    for text in _texts(page.blocks):
        for found in _NUMBER.finditer(text.text):
            shown = found[0].strip()
            mark = known.get(_plain(shown))
            if mark is None or not _tells(shown):
                continue
            place = replace(text.span, column=text.span.column + found.start())
            what = f"{shown} stands here as it was typed, and `{mark[0]}` was just that when the page was last pressed."
            form = f" as {mark[1]}" if mark[1] else ""
            yield Problem(place, what, f"Write `{{= {mark[0]}{form}}}`, and it follows the data.")


def _tells(shown: str) -> bool:
    """Whether a number is so particular that it is hardly the same by chance."""
    digits = re.sub(r"\D", "", shown).lstrip("0")
    return len(digits) >= 3 and not _YEAR.match(shown)


def _plain(shown: str) -> str:
    return re.sub(r"[\u00a0\u202f ]", " ", shown).replace("\u2212", "-").replace(" %", "%")


def _known(page: Page, language: Language) -> dict[str, tuple[str, str]]:
    """Expression and form by how the value would be written, of all marks of the last pressing that had numbers."""
    found: dict[str, tuple[str, str]] = {}
    for expression, own, answer in _answers(page):
        for form in dict.fromkeys((own, *_FORMS)):
            try:
                text = _plain(write_value(answer, form, None, language))
            except (FormFault, ValueError, OverflowError):
                continue
            found.setdefault(text, (expression, form))
    return found


def _answers(page: Page) -> Iterator[tuple[str, str, Answer]]:
    try:
        record: Any = json.loads(colophon_file(page.path).read_text(encoding="utf-8"))
        marks = [(str(one["expression"]), str(one["value"])) for one in record["marks"]]
    except (OSError, ValueError, KeyError, TypeError):
        return
    for written, value in marks:
        expression, form = split_form(written)
        kind, _, number = value.partition(" ")
        if kind in {"whole", "number"} and not re.match(r"given\b", expression):
            try:
                yield expression, form, Answer(kind, int(number) if kind == "whole" else float(number))
            except ValueError:
                continue


def _texts(blocks: n.Blocks) -> Iterator[n.Text]:
    """Running text of prose, lists, headings and captions; nothing of what code shows, since nothing has run."""
    todo: list[n.Node] = list(reversed(blocks))
    while todo:
        node = todo.pop()
        if isinstance(node, n.Text):
            yield node
        elif not isinstance(node, (*_APART, n.Chunk, n.CodeBlock, n.ReferenceList)):
            todo += reversed(list(children(node)))
