"""A page as it was just saved, with what is known from before: shown at once, while chunks still run."""

from __future__ import annotations

import datetime
import time
from collections import defaultdict, deque
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

from wornpage.compose import compose, read_head
from wornpage.plan.record import Record
from wornpage.press import Proof, prepare
from wornpage.session.results import Answer
from wornpage.source import Page, read_page
from wornpage.store.blocks import keep_in
from wornpage.store.place import store_of
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

_UNKNOWN = Answer("text", "…")
"""What stands for a mark that nobody has answered yet."""


def meanwhile(path: Path, given: dict[str, object], before: Proof | None) -> Proof | None:
    """The page now, answered from `before`; None if it is at fault, or takes running to be put together."""
    try:
        source = read_page(path, path.name)
        if any(isinstance(node, n.Insert) for node in walk(source.blocks)):
            return None
        keep_in(store_of(source.path))
        settings, head, warnings = prepare(source, None, given)
        record = _record(source, head.nodes(), before)
        composed, _ = compose(source, settings, head, record, datetime.date.today())
    except PageError:
        return None
    return Proof(source, settings, head, record, composed, warnings, {}, time.time_ns())


def _record(source: Page, head: tuple[n.Node, ...], before: Proof | None) -> Record:
    """What is known of `source`: its chunks by their labels, its marks by what they ask."""
    known: defaultdict[tuple[str, str], deque[Answer]] = defaultdict(deque)
    if before is not None:
        earlier = read_head(before.source, before.settings).nodes()
        for mark in _marks((*(before.record.page or before.source).blocks, *earlier)):
            if mark.span in before.record.answers:
                known[mark.expression, mark.form].append(before.record.answers[mark.span])
    answers: dict[Span, Answer] = {}
    for mark in _marks((*source.blocks, *head)):
        same = known[mark.expression, mark.form]
        answers[mark.span] = (same.popleft() if len(same) > 1 else same[0]) if same else _UNKNOWN
    return Record({}, answers, ()) if before is None else replace(before.record, answers=answers, page=None)


def _marks(nodes: tuple[n.Node, ...]) -> Iterator[n.ValueMark]:
    return (node for node in walk(nodes) if isinstance(node, n.ValueMark))
