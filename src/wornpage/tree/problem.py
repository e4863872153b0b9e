"""What is wrong with a page: the error tree and the values it carries.

    WornError                 something the user can mend; holds one or more problems
    ├── PageError             the page, its settings, data or code are at fault (exit status 1)
    └── UsageError            the command was called wrongly (exit status 2)

Problems are collected and shown together, in source order; bugs are raised as what they are.
"""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum

from msgspec import Struct
from msgspec.structs import replace

from wornpage.tree.span import Span


class Severity(StrEnum):
    """How bad a problem is: an error stops the pressing, a warning does not."""

    ERROR = "error"
    WARNING = "warning"


class Problem(Struct, frozen=True):
    """One fault, with its place and a way out."""

    span: Span
    what: str
    hint: str = ""
    """What was probably meant, or what to do; empty where nothing sensible can be said."""
    severity: Severity = Severity.ERROR
    detail: str = ""
    """Further lines, such as a traceback; empty for most problems."""

    def __str__(self) -> str:
        mark = "" if self.severity is Severity.ERROR else "warning: "
        stop = "" if self.what.endswith((".", "?", "!")) else "."
        within = f" ({self.span.within})" if self.span.within else ""
        text = f"{self.span}: {mark}{self.what}{stop} {self.hint}".rstrip() + within
        return f"{text}\n{self.detail}" if self.detail else text

    def to_data(self) -> dict[str, str | int]:
        """As plain data, for JSON."""
        return {
            "file": self.span.file,
            "line": self.span.line,
            "column": self.span.column,
            "severity": str(self.severity),
            "what": self.what,
            "hint": self.hint,
            "detail": self.detail,
        }


def folded(problems: Iterable[Problem]) -> list[Problem]:
    """What is wrong with an inserted file is told once, with how often the file stands in the page."""
    groups: dict[tuple[object, ...], list[Problem]] = {}
    for problem in problems:
        at = replace(problem.span, within="") if problem.span.within else problem.span
        groups.setdefault((at, problem.what, problem.hint, problem.severity), []).append(problem)
    return [_with_others(group[0], len(group) - 1) for group in groups.values()]


def _with_others(problem: Problem, others: int) -> Problem:
    if not others or not problem.span.within:
        return problem
    return replace(problem, span=replace(problem.span, within=f"{problem.span.within}, and {others} more"))


class WornError(Exception):
    """Root of everything a user can mend. Survives pickling: its only argument is a tuple."""

    def __init__(self, problems: Iterable[Problem]) -> None:
        self.problems = tuple(sorted(problems, key=lambda problem: problem.span))
        super().__init__(self.problems)

    def __str__(self) -> str:
        return "\n".join(map(str, folded(self.problems)))


class PageError(WornError):
    """The page, its settings, its data or its code are at fault."""


class UsageError(Exception):
    """The command was called wrongly: an option or an argument makes no sense."""


def stop_on_errors(problems: Iterable[Problem]) -> None:
    """Raise `PageError` with all `problems` if at least one of them is an error."""
    found = tuple(problems)
    if has_errors(found):
        raise PageError(found)


def has_errors(problems: Iterable[Problem]) -> bool:
    """Whether at least one of them is an error."""
    return any(problem.severity is Severity.ERROR for problem in problems)


def near_miss(word: str, known: Iterable[str], most: int = 3, cutoff: float = 0.6) -> str:
    """A sentence naming what `word` was probably meant to be, up to `most` things; empty when nothing is near."""
    from difflib import get_close_matches  # here, since most runs have no fault to explain

    matches = get_close_matches(word, list(known), n=most, cutoff=cutoff)
    if not matches:
        return ""
    return f"Did you mean {' or '.join(map(quoted, matches))}?"


def quoted(text: str) -> str:
    """`text` between quotation marks, its backslashes as they are."""
    return repr(text).replace("\\\\", "\\")
