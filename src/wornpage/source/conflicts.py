"""Lines that hold several versions of the same words, left by `worn collate` for the author to choose from."""

from __future__ import annotations

from collections.abc import Iterator

from wornpage.tree.problem import Problem
from wornpage.tree.span import Span

OURS, BETWEEN, THEIRS = "<<<<<<< the page", "=======", ">>>>>>> "
"""Around the versions: first what the page says, then what each reviewer made of it, and the reviewers' names."""


def conflict_problems(text: str, name: str) -> Iterator[Problem]:
    """An error for each place where nobody has chosen yet."""
    if OURS not in text:
        return
    for number, line in enumerate(text.split("\n"), 1):
        if line == OURS:
            what = "here stand several versions of the same words, and one is to be chosen."
            hint = f"Keep one of them, and take the lines with `<<<<<<<`, `{BETWEEN}` and `>>>>>>>` away."
            yield Problem(Span(name, number), what, hint)
