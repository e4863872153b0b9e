"""Pressing with so many chunks at once, however short they are; and what of it came of chunks before their turn."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from unittest.mock import patch

from wornpage.plan.ahead import Ahead, Made
from wornpage.plan.deciding import Question
from wornpage.plan.stopping import Stopper


@contextmanager
def side_by_side(at_once: int) -> Iterator[list[str]]:
    """Gives the labels of the chunks that ran ahead of their turn and were taken."""
    taken: list[str] = []
    take = Ahead.take

    def noted(self: Ahead, index: int, question: Question, stopper: Stopper) -> Made | None:
        made = take(self, index, question, stopper)
        taken.extend([question.chunk.label] if made is not None else [])
        return made

    with (
        patch("wornpage.plan.walk.own_share", lambda: at_once),
        patch("wornpage.plan.ahead._WORTH", 0.0),
        patch("wornpage.plan.ahead._WORTH_ANEW", 0.0),
        patch.object(Ahead, "take", noted),
    ):
        yield taken
