"""A page from a notebook in the open JSON format that notebooks are exchanged in, its versions 3 and 4.

Source: the published description of the format. What cells have shown is not taken over: it is made anew.
"""

from __future__ import annotations

import ast
import base64
import binascii
import json
import re
from typing import Any
from urllib.parse import unquote

from wornpage.exchange.writing import Draft, claimed
from wornpage.source.marks.verbs import VERBS, opening
from wornpage.tree.files import as_utf8
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span

_COMMAND = re.compile(r"^(\s*)([%!?].*|[\w.]+\?{1,2})$")
"""A line for the notebook's own program, such as `%matplotlib inline` or `!pip list`."""
_ATTACHED = re.compile(r"\(attachment:([^)\n]+)\)")
_ENDING = re.compile(r"[a-z0-9]{1,12}(?=\+|$)")
_MARK = re.compile(r"(?=" + opening(*VERBS, then=r"(?:(?<==)|\s)") + r")\{")


class Notebook:
    """What becomes of a notebook."""

    def __init__(self, text: str, pictures: dict[str, bytes], notes: list[str]) -> None:
        self.text = text
        self.pictures = pictures
        """Images it holds, by the name the page has for them."""
        self.notes = notes
        """What does not work as it did, in words."""


def page_of_notebook(text: str, name: str, title: str, folder: str) -> Notebook:
    """The page, its pictures, which go into `folder` beside it, and what is to be said of it. Raises `PageError` if it is no notebook."""
    try:
        data = json.loads(text)
        cells = data["cells"] if "cells" in data else [cell for sheet in data["worksheets"] for cell in sheet["cells"]]
        language = _language(data)
        return _Reading(title, language, name, folder).page(cells)
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        at = Span(name, getattr(error, "lineno", 1), getattr(error, "colno", 1))
        raise PageError([Problem(at, "this is no notebook in the open format.")]) from None


def _language(data: dict[str, Any]) -> str:
    about = data.get("metadata") or {}
    runner, language = about.get("kernelspec") or {}, about.get("language_info") or {}
    return str(runner.get("language") or language.get("name") or "python").lower()


class _Reading:
    def __init__(self, title: str, language: str, name: str, folder: str) -> None:
        self.draft = Draft(title)
        self.language, self.name, self.folder = language, name, folder
        self.has_title = False
        self.pictures: dict[str, bytes] = {}
        self.notes: list[str] = []

    def page(self, cells: list[dict[str, Any]]) -> Notebook:
        for number, cell in enumerate(cells, 1):
            source = cell.get("source", cell.get("input")) or ""
            lines = ("".join(source) if isinstance(source, list) else str(source)).replace("\r\n", "\n").split("\n")
            match cell["cell_type"]:
                case "markdown":
                    self.markdown(self.attached(lines, cell, number))
                case "heading":
                    self.draft.heading(" ".join(lines), int(cell.get("level", 1)))
                case "code":
                    self.code(lines, number)
                case _:
                    self.draft.listing(lines, "text")
        return Notebook(self.draft.text(), self.pictures, self.notes)

    def markdown(self, lines: list[str]) -> None:
        """Prose; the first heading of the notebook is its title."""
        first = next((place for place, line in enumerate(lines) if line.strip()), None)
        if not self.has_title and first is not None and (found := re.match(r"#\s+(.+?)\s*#*$", lines[first])):
            self.draft.title = found[1]
            lines = lines[first + 1 :]
        self.has_title = self.has_title or first is not None
        self.draft.prose(_MARK.sub(r"\\{", claimed(line)) for line in lines)

    def attached(self, lines: list[str], cell: dict[str, Any], number: int) -> list[str]:
        """Images that a cell carries become files beside the page."""
        held = cell.get("attachments") or {}

        def named(match: re.Match[str]) -> str:
            kinds = held.get(match[1]) or held.get(unquote(match[1])) or {}
            for kind, data in kinds.items():
                ending = _ENDING.match(kind.partition("/")[2])
                if ending is None:
                    continue
                held_text = "".join(data) if isinstance(data, list) else str(data)
                name = f"{number}-{re.sub(r'[^A-Za-z0-9-]+', '-', match[1].rpartition('.')[0]) or 'image'}.{ending[0]}"
                try:
                    self.pictures[name] = (
                        as_utf8(held_text) if ending[0] == "svg" else base64.b64decode(held_text, validate=True)
                    )
                except (binascii.Error, ValueError):
                    continue
                return f"({self.folder}/{name})"
            return match[0]

        return [_ATTACHED.sub(named, line) for line in lines]

    def code(self, lines: list[str], number: int) -> None:
        """A chunk; a cell in another language is shown and not run."""
        first = next((line.strip() for line in lines if line.strip()), "")
        if first.startswith("%%"):
            language = first[2:].split()[0] if first[2:].split() else "text"
            if language in {"time", "timeit", "capture"}:
                self.note(number, f"`{first}` is left out")
                self.code(lines[lines.index(next(line for line in lines if line.strip())) + 1 :], number)
                return
            self.note(number, f"is in {language}; it is shown and not run")
            self.draft.listing(lines[lines.index(next(line for line in lines if line.strip())) + 1 :], language)
        elif self.language != "python":
            self.draft.listing(lines, self.language)
        else:
            self.draft.chunk(lines if _is_python(lines) else [self.plain(line, number) for line in lines])
            if any(re.search(r"\bdisplay\(", line) for line in lines):
                self.note(
                    number, "uses `display`, which a page does not have; `page.table` and `page.figure` show things"
                )

    def plain(self, line: str, number: int) -> str:
        """A line that Python understands."""
        match = _COMMAND.match(line)
        if match:
            self.note(number, f"`{line.strip()}` is no Python; it is a comment now")
            return f"{match[1]}# {match[2]}"
        return line

    def note(self, number: int, what: str) -> None:
        """Something to be said of a cell, once."""
        said = f"{self.name}: cell {number}: {what}"
        if said not in self.notes:
            self.notes.append(said)


def _is_python(lines: list[str]) -> bool:
    try:
        ast.parse("\n".join(lines))
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        return False
    return True
