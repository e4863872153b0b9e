"""A whole language for tests: whole numbers and rows of them, run within this process.

let n = 3          let m = n + 4         let n = file counts.txt       let n = dice
row r = 1 2 3      push r n              let n = total r
show n             save counts.txt n     fail words
"""

from __future__ import annotations

import hashlib
import json
import random
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from wornpage.session.language import CodeReader, Fault, Session
from wornpage.session.program.language import PlainCode
from wornpage.session.results import Answer, ChunkResult, Failure, Frame, Printed, Raised, Shown
from wornpage.session.tasks import (
    NOTHING_AT_END,
    Answered,
    Answers,
    AtEnd,
    ChunkTask,
    Environment,
    Handed,
    MarkTask,
    Position,
    Ran,
    Standing,
)
from wornpage.session.told import Found
from wornpage.store.blobs import Blobs
from wornpage.store.files import content
from wornpage.store.trace import Bound, Provider


def _lines(code: str) -> list[list[str]]:
    return [line.partition(";")[0].split() for line in code.splitlines()]


class AbacusCode(PlainCode):
    """Reads it."""

    def normal_form(self, code: str) -> str:
        return hashlib.blake2b(repr([line for line in _lines(code) if line]).encode(), digest_size=8).hexdigest()

    def mentioned(self, code: str) -> frozenset[str]:
        return frozenset(word for line in _lines(code) for word in line if word.isidentifier())

    def bound(self, code: str) -> set[str]:
        return {line[1] for line in _lines(code) if line[:1] in (["let"], ["row"])}

    def binding(self, values: Mapping[str, str], file: str | None, told: Sequence[str]) -> str:
        return "\n".join(f"let {name} = {value}" for name, value in values.items())


class _Missing(Exception):
    """A name that only running can give."""


class AbacusSession:
    """Rows are changed in place and can only be had by running; numbers are kept."""

    def __init__(self) -> None:
        self.on_tally: Callable[[str, int, int], None] | None = None
        self.names: dict[str, tuple[str, Any]] = {}
        self.table: dict[str, Standing] = {}
        self.is_closed = False

    def open(self, environment: Environment) -> None:
        self.environment, self.blobs = environment, Blobs(environment.store)

    def run(self, task: ChunkTask, at: Position) -> Ran:
        self._stand(at)
        self.reads: list[str] = []
        self.absent: list[str] = []
        self.files: dict[str, str] = {}
        self.written: dict[str, str] = {}
        self.bound: dict[str, Any] = {}
        self.chance, self.drew = random.Random(task.seed), False
        shown: list[Shown] = []
        failure = None
        try:
            for number, line in enumerate(_lines(task.code), 1):
                try:
                    self._line(line, shown)
                except (LookupError, ValueError, OSError) as error:
                    frame = Frame(f"chunk:{task.label}", number, "", " ".join(line))
                    words = "a file is missing" if isinstance(error, OSError) else str(error)
                    failure = Failure("Abacus", (Raised("Abacus", words, (frame,)),))
                    break
        except _Missing as missing:
            return Ran(ChunkResult((), None, 0), needs=str(missing))
        names = {name: self._kept(name, value) for name, value in self.bound.items()}
        for name, bound in names.items():
            self.names[name] = (task.version, self.bound[name])
            self.table[name] = Standing(task.version, bound.print, {})
        written = tuple((path, content(self._path(path))) for path in self.written)
        found = Found(
            reads=tuple(self.reads), absent=tuple(self.absent), files={"file": self.files}, seed=self.drew, names=names, written=written
        )  # fmt: skip
        return Ran(ChunkResult(tuple(shown), failure, 0.001), found)

    def answer(self, marks: Sequence[MarkTask], at: Position) -> Answers:
        self._stand(at)
        self.reads, self.absent, self.bound = [], [], {}
        answered = [
            Answered(Answer("whole", self._value(mark.expression)), Found(reads=(mark.expression,))) for mark in marks
        ]
        return Answers(tuple(answered))

    def give(self, name: str, at: Position) -> Handed:
        return Handed(trouble="beads stay where they are")

    def hold(self, at: Position, names: Sequence[str] | None = None) -> None:
        self._stand(at)

    def tells_who(self) -> bool:
        return False

    def fork(self, given: Mapping[str, Any], ahead: bool = False) -> Session:
        child = AbacusSession()
        child.open(self.environment)
        child.names, child.table = dict(self.names), dict(self.table)
        return child

    def interrupt(self) -> None:
        """Nothing takes long."""

    def kill(self) -> None:
        """Nothing takes long."""

    left = False

    def end(self, at: Position) -> AtEnd:
        self.close()
        return NOTHING_AT_END

    def close(self) -> None:
        self.is_closed = True

    # --- inside -------------------------------------------------------------------------------

    def _stand(self, at: Position) -> None:
        self.table |= at.table
        for name in at.gone:
            self.table.pop(name, None)

    def _line(self, line: list[str], shown: list[Shown]) -> None:
        match line:
            case []:
                pass
            case ["let", name, "=", "file", path]:
                self.files[path] = content(self._path(path))
                self.bound[name] = int(Path(self._path(path)).read_text(encoding="utf-8"))
            case ["let", name, "=", "dice"]:
                self.drew = True
                self.bound[name] = self.chance.randint(1, 6)
            case ["let", name, "=", "total", row]:
                self.bound[name] = sum(self._value(row))
            case ["let", name, "=", *words]:
                self.bound[name] = sum(self._value(word) for word in words if word != "+")
            case ["row", name, "=", *words]:
                self.bound[name] = [self._value(word) for word in words]
            case ["push", name, word]:
                row = self._value(name)
                row.append(self._value(word))
                self.bound[name] = row
            case ["show", name]:
                shown.append(Printed(f"{self._value(name)}\n", "output"))
            case ["save", path, name]:
                Path(self._path(path)).write_text(str(self._value(name)), encoding="utf-8")
                self.written[path] = ""
            case _:
                raise ValueError(" ".join(line))

    def _value(self, word: str) -> Any:
        if word.lstrip("-").isdigit():
            return int(word)
        if word in self.bound:
            return self.bound[word]
        standing = self.table.get(word)
        if standing is None:
            self.absent.append(word)
            raise LookupError(f"there is no {word}")
        if self.names.get(word, ("",))[0] != standing.version:
            if "blob" not in standing.provider:
                raise _Missing(word)
            self.names[word] = (standing.version, json.loads(self.blobs.get(standing.provider["blob"])))
        self.reads.append(word)
        return self.names[word][1]

    def _kept(self, name: str, value: Any) -> Bound:
        if isinstance(value, list) or not self.blobs.keeps:
            return Bound("live" if isinstance(value, list) else str(value), Provider(live=True))
        return Bound(str(value), Provider(blob=self.blobs.put(json.dumps(value).encode()), group=(name,)))

    def _path(self, path: str) -> str:
        return str(self.environment.folder / path)


class Abacus:
    """The language."""

    name, version, comment, home = "abacus", "1", ";", "abacus"
    has_values, beforehand, trouble = True, "", ""
    fences, suffixes = ("abacus", "beads"), (".abacus",)
    code: CodeReader = AbacusCode()

    def faults(self, codes: Sequence[tuple[str, str]]) -> Sequence[Fault]:
        return ()

    def start(self, threads: int | None) -> Session:
        return AbacusSession()


LANGUAGE = Abacus()
