"""The verbs of marks, and how a mark begins: every pattern that looks for marks is made of these."""

from __future__ import annotations

import re

ANSWERED = ("=", "see", "cite", "index")
"""Verbs of marks that stand in sentences and become words."""
VERBS = (*ANSWERED, "insert")
_VALUE = r"(?:[a-z][a-z0-9+-]*)?="
"""How a value mark begins: with the word of a language that its expression is written in, or with none."""
COMMANDS = ("contents", "figures", "tables", "references", "index", "new sheet", "new slide", "appendix", "graph")
"""Marks that are one word, or two, and stand alone in a paragraph."""
WITH_ATTRIBUTES = ("new slide",)
"""Those that `key=value` may follow."""


def opening(*verbs: str, then: str = r"\s") -> str:
    """A pattern for the brace and the verb (its first group) of marks with these verbs; `then` is what follows."""
    return r"\{(" + "|".join(_VALUE if verb == "=" else re.escape(verb) for verb in verbs) + ")" + then


def command_of(raw: str) -> str:
    """Which of `COMMANDS` a mark is; empty for none."""
    inner = raw[1:-1]
    if inner in COMMANDS:
        return inner
    return next((verb for verb in WITH_ATTRIBUTES if inner.startswith(f"{verb} ")), "")


def verb_of(raw: str) -> str:
    """The verb of a mark as it is written."""
    found = re.match(opening(*VERBS, then=r"(?![\w-])"), raw)
    return ("=" if found[1].endswith("=") else found[1]) if found else ""


def value_parts(raw: str) -> tuple[str, str]:
    """The word of the language, empty for the page's own, and what stands between the braces of a value mark."""
    word, _, body = raw[1:-1].partition("=")
    return word, body
