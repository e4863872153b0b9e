"""Tags that are meant for HTML alone, told where another output leaves them out."""

from __future__ import annotations

from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span


def left_out(span: Span, html: str, output: str) -> Problem | None:
    """What is said of a tag; nothing of mere comments and of closing tags."""
    if html.startswith(("<!--", "</")):
        return None
    what = f"{html.strip().split(chr(10))[0][:40]} is HTML and is left out of the {output}."
    return Problem(span, what, "Put it into `::: in html` to say so.", Severity.WARNING)
