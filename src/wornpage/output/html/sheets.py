"""Style sheets fit to stand inside a page: what they name as files is put into them, since a page needs nothing else."""

from __future__ import annotations

import base64
import mimetypes
import re
from pathlib import Path

from wornpage.tree.files import file_bytes
from wornpage.tree.problem import Problem, Severity, near_miss
from wornpage.tree.span import Span

_URL = re.compile(r"""url\(\s*(?:"([^"]*)"|'([^']*)'|([^)\s"']*))\s*\)""")
_IMPORT = re.compile(r"@import\b[^;]*;?")


def inner_style(text: str, folder: Path, name: str) -> tuple[str, list[Problem]]:
    """`text`, the style sheet called `name` in `folder`, with its files in it; and what is not there or lies elsewhere."""
    problems: list[Problem] = []

    def told(at: int, what: str, hint: str) -> None:
        line = text.count("\n", 0, at) + 1
        problems.append(Problem(Span(name, line, at - text.rfind("\n", 0, at)), what, hint, Severity.WARNING))

    def embedded(match: re.Match[str]) -> str:
        address = next((group for group in match.groups() if group is not None), "").strip()
        if not address or address.startswith(("data:", "#")):
            return match[0]
        if re.match(r"[a-z][a-z0-9+.-]*:|//", address, re.IGNORECASE):
            told(
                match.start(),
                f"{address[:80]!r} lies elsewhere; a page holds all it shows.",
                "Save it beside the style sheet.",
            )
            return "none"
        path = folder / address.partition("#")[0].partition("?")[0]
        try:
            data = file_bytes(path)
        except OSError as error:
            beside = sorted(one.name for one in path.parent.iterdir()) if path.parent.is_dir() else []
            told(match.start(), f"{address[:80]!r} cannot be read: {error.strerror}.", near_miss(path.name, beside))
            return "none"
        kind = mimetypes.guess_type(path.name)[0] or "application/octet-stream"
        return f'url("data:{kind};base64,{base64.b64encode(data).decode()}")'

    for match in _IMPORT.finditer(text):
        told(match.start(), "a style sheet inside a page imports no other.", "Name both under `stylesheets:`.")
    made = _URL.sub(embedded, _IMPORT.sub("", text))
    return made.replace("</", "<\\/").strip(), problems
