"""A comparison in words: differences, shares, sums."""

from __future__ import annotations

import math

from wornpage.compare.changes import (
    CellChange,
    Comparison,
    FigureChange,
    NumberChange,
    PartChange,
    RowsChange,
    WordsChange,
    relative,
)
from wornpage.showing.parts import Number

_DIGITS = 3
"""Digits of a difference that are told."""


def difference(was: Number | None, now: Number | None) -> str:
    """By how much a number has changed, with its sign; empty for what is no number."""
    if was is None or now is None or was == now:
        return ""
    gap = now - was
    if isinstance(gap, int):
        return f"{gap:+,}".replace("-", "\u2212")
    return f"{gap:+,.{_DIGITS}g}".replace("-", "\u2212").replace("e\u2212", "e-")


def share(was: Number | None, now: Number | None) -> str:
    """By what share of what it was; empty where that says nothing."""
    part = relative(was, now)
    if part is None or not part or not math.isfinite(part):
        return ""
    percent = part * 100
    said = f"{percent:+,.1f}" if abs(percent) >= 0.1 else f"{percent:+.{_DIGITS - 1}g}"
    return f"{said} %".replace("-", "\u2212", 1)


def counts(comparison: Comparison) -> list[tuple[str, str]]:
    """How much has changed, by kinds, as numbers and words."""
    changes = comparison.changes
    seen = sum(isinstance(one, NumberChange) and one.is_seen for one in changes)
    hidden = sum(isinstance(one, NumberChange) and not one.is_seen for one in changes)
    found = [
        (seen, "number in words", "numbers in words"),
        (hidden, "number beyond the digits that are shown", "numbers beyond the digits that are shown"),
        (sum(isinstance(one, CellChange) for one in changes), "cell of tables", "cells of tables"),
        (sum(isinstance(one, FigureChange) for one in changes), "figure", "figures"),
        (sum(isinstance(one, WordsChange) for one in changes), "text", "texts"),
        (sum(isinstance(one, PartChange | RowsChange) for one in changes), "thing that came or went", "things that came or went"),
    ]  # fmt: skip
    return [(f"{count:,}", one if count == 1 else several) for count, one, several in found if count]


def same_in_words(comparison: Comparison) -> str:
    """What is as it was."""
    found = [
        f"{count:,} {kind.removesuffix('s') if count == 1 else kind}"
        for kind, count in comparison.same.items()
        if count
    ]
    return ", ".join(found) or "nothing"
