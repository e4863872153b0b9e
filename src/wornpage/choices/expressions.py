"""Editions from what a page has loaded: an expression asked in its session."""

from __future__ import annotations

import json

from msgspec.structs import replace

from wornpage.plan.codes import reader_of
from wornpage.plan.languages import USUAL
from wornpage.plan.record import SilentReporter
from wornpage.plan.walk import run_page
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span

_AS_ROWS = (
    "__import__('json').dumps([dict(row) if hasattr(row, 'keys') else row for row in "
    "(lambda rows: rows.to_dict('records') if hasattr(rows, 'to_dict') else rows)({expression})], "
    "default=lambda value: str(value).removesuffix(' 00:00:00'))"
)


def rows_from(page: Page, settings: Settings, expression: str, span: Span) -> list[dict[str, object]]:
    """The mappings that `expression` gives where the chunks have run that write its names.

    Raises `PageError` if it does not.
    """
    from wornpage.choices.tables import plain_row

    read = reader_of(USUAL)
    wanted = read.mentioned(expression)
    writers = [place for place, chunk in enumerate(page.chunks) if read.bound(chunk.code) & wanted]
    above = page.chunks[: writers[-1] + 1] if writers else ()
    mark = n.ValueMark(span, _AS_ROWS.format(expression=expression), "", language=USUAL)
    record = run_page(replace(page, chunks=above, blocks=above), settings, (mark,), SilentReporter())
    answer = record.answers.get(span)
    if answer is not None and answer.failure is not None:
        last = answer.failure.last
        raise PageError([Problem(span, f"`{expression}` fails: {last.kind}: {last.message}.")])
    if record.problems or answer is None:
        raise PageError(record.problems)
    rows = json.loads(str(answer.value))
    if not all(isinstance(row, dict) for row in rows):
        hint = "Write an expression such as `branches.to_dict('records')` or `[{'branch': b} for b in names]`."
        raise PageError([Problem(span, "the editions are no mappings of given names to values.", hint)])
    return [plain_row(row) for row in rows]
