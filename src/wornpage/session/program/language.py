"""Any program as a language: it gets a chunk on its standard input, or as a file, and what it prints is shown."""

from __future__ import annotations

import hashlib
import shlex
from collections.abc import Mapping, Sequence

from wornpage.session.language import CodeReader, Fault, Session
from wornpage.store.programs import identity, where


class PlainCode:
    """Code of which nothing is known but its letters."""

    def normal_form(self, code: str) -> str:
        """A hash of it as written: what is a comment, only the program knows."""
        return hashlib.blake2b(code.rstrip("\n").encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()

    def mentioned(self, code: str) -> frozenset[str]:
        """Nothing: it has no names of the page."""
        return frozenset()

    def bound(self, code: str) -> set[str]:
        """Nothing."""
        return set()

    def definitions(self, code: str) -> dict[str, set[str]]:
        """Nothing."""
        return {}

    def asks_for(self, code: str) -> frozenset[str]:
        """Nothing."""
        return frozenset()

    def imported(self, code: str) -> frozenset[str]:
        """Nothing."""
        return frozenset()

    def clock(self, code: str) -> str:
        """Nothing that could be told."""
        return ""

    def labels(self, code: str) -> tuple[frozenset[str], bool]:
        """None: it has no `page`."""
        return frozenset(), False

    def alone(self, code: str, given: Mapping[str, object]) -> list[str]:
        """Nothing that would be known."""
        return []

    def literal(self, value: object) -> str:
        """A given value as text."""
        return str(value)

    def binding(self, values: Mapping[str, str], file: str | None, told: Sequence[str]) -> str:
        """Nothing: inserts are given values in another language."""
        return ""


class Program:
    """A program that runs chunks of its own word behind the fence."""

    has_values = False
    beforehand = ""
    code: CodeReader = PlainCode()

    def __init__(self, name: str, command: str, suffix: str, comment: str) -> None:
        self.name, self.command, self.comment = name, command, comment
        self.home = name
        self.fences, self.suffixes = (name,), (suffix or f".{name}",)

    @property
    def version(self) -> str:
        """Which file the program is: with another nothing made before is reused."""
        return f"{self.command}\0{identity(self._words[0] if self._words else '')}"

    @property
    def trouble(self) -> str:
        """Why no session can be had; empty for nothing."""
        if not self._words:
            return f"the command of `{self.name}` is empty"
        return "" if where(self._words[0]) else f"there is no program {self._words[0]!r} on this machine"

    @property
    def _words(self) -> list[str]:
        try:
            return shlex.split(self.command)
        except ValueError:
            return self.command.split()

    def faults(self, codes: Sequence[tuple[str, str]]) -> Sequence[Fault]:
        """Nothing is known of it."""
        return ()

    def start(self, threads: int | None) -> Session:
        """A session, which has nothing running."""
        from wornpage.session.program.session import ProgramSession

        return ProgramSession(threads, self._words, self.suffixes[0])
