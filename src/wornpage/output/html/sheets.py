"""Style sheets fit to stand inside a page: what they name as files is put into them, since a page needs nothing else."""

from __future__ import annotations

import base64
import mimetypes
import re
from pathlib import Path
from urllib.parse import unquote

from msgspec import Struct
from msgspec.structs import replace

from wornpage.output.stationery import Stationery
from wornpage.tree.files import file_bytes
from wornpage.tree.problem import Problem, Severity, near_miss
from wornpage.tree.span import Span

_NAMING = re.compile(
    r"""/\*.*?(?:\*/|$)|(?P<import>@import\b(?:[^;"']|"[^"]*"|'[^']*')*;?)"""
    r"""|url\(\s*(?:"(?P<double>[^"]*)"|'(?P<single>[^']*)'|(?P<bare>[^)\s"']*))\s*\)""",
    re.DOTALL | re.IGNORECASE,
)
"""What names a file; remarks name none, whatever stands in them."""


class InnerStyle(Struct, frozen=True):
    """A style sheet with its files in it."""

    text: str = ""
    problems: tuple[Problem, ...] = ()
    """Files that are not there or lie elsewhere."""
    read: tuple[Path, ...] = ()
    """The files that it names, those that are not there among them."""


def inner_style(text: str, folder: Path, name: str) -> InnerStyle:
    """`text`, the style sheet called `name` in `folder`, as it may stand inside a page."""
    sheet = _Sheet(text, folder, name)
    made = _NAMING.sub(sheet.put_in, text).replace("</", "<\\/").strip()
    return InnerStyle(made, tuple(sheet.problems), tuple(sheet.read))


def style_of(stationery: Stationery, file: str) -> InnerStyle:
    """The style sheets of a stationery that are called so, its own last; what that names lies in its folder."""
    *base, last = stationery.looks[file]
    if stationery.folder is None or not (stationery.folder / file).is_file():
        return InnerStyle("\n".join(filter(None, map(str.strip, (*base, last)))))
    own = inner_style(last, stationery.folder, f"{stationery.name}/{file}")
    return replace(own, text="\n".join(filter(None, (*map(str.strip, base), own.text))))


class _Sheet:
    def __init__(self, text: str, folder: Path, name: str) -> None:
        self.text, self.folder, self.name = text, folder, name
        self.problems: list[Problem] = []
        self.read: list[Path] = []

    def put_in(self, match: re.Match[str]) -> str:
        """What stands in the page for what names a file."""
        if match["import"]:
            self._tell(match, "a style sheet inside a page imports no other.", "Name both under `stylesheets:`.")
            return ""
        address = (match["double"] or match["single"] or match["bare"] or "").strip()
        if not address or address.startswith(("data:", "#")):
            return match[0]
        if re.match(r"[a-z][a-z0-9+.-]*:|//", address, re.IGNORECASE):
            what = f"{address[:80]!r} lies elsewhere; a page holds all it shows."
            self._tell(match, what, "Save it beside the style sheet.")
            return "none"
        path = self.folder / unquote(address.partition("#")[0].partition("?")[0])
        self.read.append(path)
        try:
            data = file_bytes(path)
        except OSError as error:
            beside = sorted(one.name for one in path.parent.iterdir()) if path.parent.is_dir() else []
            self._tell(match, f"{address[:80]!r} cannot be read: {error.strerror}.", near_miss(path.name, beside))
            return "none"
        kind = mimetypes.guess_type(path.name)[0] or "application/octet-stream"
        return f'url("data:{kind};base64,{base64.b64encode(data).decode()}")'

    def _tell(self, match: re.Match[str], what: str, hint: str) -> None:
        line = self.text.count("\n", 0, match.start()) + 1
        column = match.start() - self.text.rfind("\n", 0, match.start())
        self.problems.append(Problem(Span(self.name, line, column), what, hint, Severity.WARNING))
