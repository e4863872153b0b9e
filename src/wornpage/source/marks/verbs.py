"""The verbs of marks, and how a mark begins: every pattern that looks for marks is made of these."""

from __future__ import annotations

import re

ANSWERED = ("=", "see", "cite")
"""Verbs of marks that stand in sentences and become words."""
VERBS = (*ANSWERED, "insert")
COMMANDS = ("contents", "figures", "tables", "references", "new sheet", "appendix", "graph")
"""Marks that are one word, or two, and stand alone in a paragraph."""


def opening(*verbs: str, then: str = r"\s") -> str:
    """A pattern for the brace and the verb (its first group) of marks with these verbs; `then` is what follows."""
    return r"\{(" + "|".join(map(re.escape, verbs)) + ")" + then


def verb_of(raw: str) -> str:
    """The verb of a mark as it is written."""
    found = re.match(opening(*VERBS, then=r"(?![\w-])"), raw)
    return found[1] if found else ""
