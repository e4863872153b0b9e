"""A chunk in a process of any program."""

from __future__ import annotations

import re
from pathlib import Path

from wornpage.session.once import OnceSession, Outcome, status_failure
from wornpage.session.program.process import Ended, Order
from wornpage.session.tasks import ChunkTask, Position

FILE = "{file}"
"""Stands in a command for the file that holds the chunk."""
_AT_LINE = re.compile(r"(?:\[stdin\]|<stdin>|\bstdin|\(standard input\)|\s-)[:,]? ?(?:line )?(\d+)|\bline (\d+)")
"""How programs name a line of what they read."""


class ProgramSession(OnceSession):
    """Gives each chunk to a new process."""

    def __init__(self, threads: int | None, command: list[str], suffix: str) -> None:
        super().__init__(threads)
        self._command, self._suffix = command, suffix

    def order(self, task: ChunkTask, at: Position, place: Path) -> Order:
        """On standard input, or as a file where the command says so."""
        code = task.code.encode("utf-8", "surrogateescape")
        if not any(FILE in word for word in self._command):
            return Order(self._command, code)
        file = place / f"{task.label}{self._suffix}"
        file.write_bytes(code)
        return Order([word.replace(FILE, str(file)) for word in self._command])

    def outcome(self, task: ChunkTask, at: Position, place: Path, ended: Ended) -> Outcome:
        """A status other than 0 is a failure, at the line that the program names."""
        if ended.status == 0:
            return Outcome()
        words = (ended.err.text or ended.out.text).replace(f"{place}/", "")  # a path that is another each time
        return Outcome(status_failure(task.label, ended.status, self._line(words, task), task.code, words))

    def _line(self, words: str, task: ChunkTask) -> int:
        """The first line of the chunk that a message speaks of; 0 for none."""
        most = task.code.count("\n") + 1
        named = re.compile(re.escape(f"{task.label}{self._suffix}") + r"\W+(?:line )?(\d+)")
        for pattern in (named, _AT_LINE):
            for match in pattern.finditer(words):
                line = int(next(group for group in match.groups() if group))
                if 0 < line <= most:
                    return line
        return 0
