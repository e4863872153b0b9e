"""What all databases have in common: statements in, frames out."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from wornpage.session.sql.statements import Statement


class SqlFault(Exception):
    """A database has refused a statement."""

    def __init__(self, message: str, offset: int | None = None) -> None:
        super().__init__(message)
        self.offset = offset
        """Letters of the statement before what is wrong, where the database says so."""


class Database:
    """What all have in common."""

    files: tuple[str, ...] = ()
    """Files that hold it."""
    is_known = True
    """Whether what it holds is known by its files, or hangs on the session alone; else it may be another at any time."""
    in_memory = False

    def run(self, statement: Statement, values: Mapping[str, object]) -> Any:
        """The frame that a statement gives; None for one that gives nothing. Raises `SqlFault`."""
        raise NotImplementedError

    def tables_wanted(self, statement: Statement) -> list[str]:
        """Names that the statement takes for tables, and that the database does not have."""
        return []

    def own_tables(self, statement: Statement) -> bool:
        """Whether the statement may read tables of the database."""
        return True

    def offer(self, name: str, frame: object) -> None:
        """Let statements see a frame of the page under its name, until it is taken back."""

    def take_back(self, name: str) -> None:
        """The name is the page's alone again: what it stands for may be another by the next statement."""

    def close(self) -> None:
        """Write what is to be written, and let go."""


_CARET = re.compile(r"^LINE (\d+): ?(.*)\n( *)\^", re.MULTILINE)
_QUOTED = re.compile(r"[\"'`]([\w.]+)[\"'`]|(?:table|column|function): ([\w.]+)|near \"([^\"]+)\"")


def placed(message: str, statement: Statement) -> SqlFault:
    """A database's words, with the place that they tell: a line and a sign under it, or something quoted."""
    words = first_line(message.partition("\nLINE ")[0].strip())
    caret = _CARET.search(message)
    if caret:
        column = len(caret[3]) - len(f"LINE {caret[1]}: ")
        shown = caret[2]
        lines = statement.text.split("\n")
        line = int(caret[1]) - 1
        if 0 <= line < len(lines):
            cut = shown.startswith("...")
            within = lines[line].find(shown.strip(".")) + column - 3 if cut else column
            return SqlFault(words, sum(len(one) + 1 for one in lines[:line]) + max(0, within))
    quoted = _QUOTED.search(message)
    name = next((part for part in quoted.groups() if part), "") if quoted else ""
    at = statement.text.lower().find(name.lower()) if name else -1
    return SqlFault(words, at if at >= 0 else None)


def first_line(text: str) -> str:
    """The first lines of a message as one."""
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    return " ".join(lines[:3]) if lines else "it was refused"
