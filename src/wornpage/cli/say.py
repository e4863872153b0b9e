"""Words for the person at the terminal: messages on standard error, results on standard output."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterable

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.tree.problem import Problem


def is_coloured() -> bool:
    """Whether standard error shows colours: a terminal, and nobody has asked for none."""
    return sys.stderr.isatty() and not os.environ.get("NO_COLOR") and os.environ.get("TERM") != "dumb"


def say(text: str) -> None:
    """A line on standard error."""
    print(text, file=sys.stderr, flush=True)


def say_problems(problems: Iterable[Problem]) -> None:
    """Each problem on a line of its own, in the form editors jump from."""
    from wornpage.tree.problem import folded

    for problem in folded(problems):
        text = str(problem)
        if is_coloured():
            place = str(problem.span)
            colour = "31" if problem.severity == "error" else "33"
            text = f"\x1b[{colour}m{place}\x1b[0m{text[len(place) :]}"
        say(text)


def seconds(duration: float) -> str:
    """A duration for people."""
    if duration < 0.0095:
        return f"{duration * 1000:.0f} ms" if duration >= 0.0005 else "0 ms"
    if duration < 100:
        return f"{duration:.2f} s"
    minutes, rest = divmod(round(duration), 60)
    return f"{minutes} min {rest} s"


def megabytes(count: int) -> str:
    """Bytes for people."""
    return f"{count / 1e6:,.1f} MB" if count < 1e9 else f"{count / 1e9:,.2f} GB"
