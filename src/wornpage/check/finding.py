"""What a check has found, and of which kind."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from msgspec import Struct
from msgspec.structs import fields, replace

from wornpage.settings.checking import meaning
from wornpage.settings.models import Check
from wornpage.tree.problem import Problem, Severity

PAGE = "page"
"""Of faults of text and settings, which stop a pressing too."""
COMMENT = "comment"
"""Of what reviewers remarked and nobody has closed."""
SHARING = "sharing"
"""Of what should not leave unseen."""
KEYS = "keys"
"""Of what opens doors, and stands where others read it."""


class Finding(Struct, frozen=True):
    """One problem, and the rule that it breaks."""

    rule: str
    problem: Problem

    def __str__(self) -> str:
        problem, within = self.problem, self.problem.span.within
        mark = "error" if problem.severity is Severity.ERROR else "warning"
        text = f"{problem.span}: {mark}: {problem.what} {problem.hint}".rstrip() + (f" ({within})" if within else "")
        return f"{text} [{self.rule}]"


def rules() -> dict[str, str]:
    """Every rule and what it is about."""
    from typing import get_type_hints

    hints = get_type_hints(Check, include_extras=True)
    return {field.name.replace("_", "-"): meaning(hints[field.name]) for field in fields(Check)}


def graded(rule: str, problems: Iterable[Problem], grades: Check) -> Iterator[Finding]:
    """Findings of a rule, as grave as the settings say."""
    grade: Any = getattr(grades, rule.replace("-", "_"))
    if grade != "off":
        for problem in problems:
            yield Finding(rule, replace(problem, severity=Severity(grade)))
