"""A chunk in a shell of its own, which begins where those above have ended."""

from __future__ import annotations

import re
import tempfile
from importlib.resources import files
from pathlib import Path

from wornpage.session.bash.code import asks_by_variables, asks_for_anything, asks_where, draws, only_written, words
from wornpage.session.bash.following import asked_for
from wornpage.session.bash.state import USUAL, as_script, differing, read_state
from wornpage.session.environment import session_environment
from wornpage.session.once import OnceSession, Outcome, status_failure
from wornpage.session.program.process import Ended, Order, Process
from wornpage.session.results import Failure
from wornpage.session.tasks import ChunkTask, Environment, Position
from wornpage.session.told import Found
from wornpage.store.programs import where

_SAID = re.compile(r"(chunk:.*?|\S*/state|\S*/prelude): (?:-c: )?line (\d+): (.*)")
"""How the shell says where it is, and what is wrong."""


class BashSession(OnceSession):
    """State is what ambient settings tell; nothing is kept in between."""

    def open(self, environment: Environment) -> None:
        """Go to the page's folder; what an empty shell is like is found out when it is first asked for."""
        super().open(environment)
        self._first: dict[str, str] | None = None

    def text(self, task: ChunkTask, at: Position) -> str:
        """Files may be named by variables of chunks above."""
        return task.code + "\n" + as_script(at.ambient)

    def order(self, task: ChunkTask, at: Position, place: Path) -> Order:
        """The shell reads its prelude first, which brings in the state."""
        (place / "prelude").write_bytes((files("wornpage.session.bash") / "prelude.sh").read_bytes())
        _write(place / "state", as_script(at.ambient) + f"RANDOM={task.seed % 32768}\n")
        _write(place / "options-before", at.ambient.get("options", USUAL))
        if asks_by_variables(self.text(task, at)):
            (place / "followed").touch()
        variables = {"BASH_ENV": str(place / "prelude"), "WORN_PLACE": str(place)}
        return Order(("bash", "--noprofile", "--norc", "-c", task.code, f"chunk:{task.label}"), variables=variables)

    def outcome(self, task: ChunkTask, at: Position, place: Path, ended: Ended) -> Outcome:
        """What it left behind, and where it failed."""
        empty = self._empty()
        now = read_state(place, self.environment.folder)
        failure = _failure(task, place, ended) if ended.status else None
        found = Found(
            coarse=tuple(sorted(_read(task.code, at.ambient))),
            programs=tuple(sorted(word for word in words(task.code) if where(word))),
            ambient=differing(now, {**empty, **at.ambient}, empty) if now else {},
            seed=draws(task.code),
            placed=asks_where(task.code),
        )
        return Outcome(failure, found, only_written(task.code), asked_for(place / "followed", self.environment.folder))

    def _empty(self) -> dict[str, str]:
        """What a shell is like that has done nothing."""
        if self._first is None:
            with tempfile.TemporaryDirectory(prefix="worn-") as name:
                order = self.order(ChunkTask("first", ":", 0, None), Position(), Path(name))
                variables = {**session_environment(self._threads), **order.variables}
                Process(order, self.environment.folder, variables).wait(None, lambda: None)
                self._first = read_state(Path(name), self.environment.folder)
        return self._first


_ALWAYS = tuple(f"variable {name}" for name in ("IFS", "GLOBIGNORE", "CDPATH", "POSIXLY_CORRECT", "TIMEFORMAT"))
"""What a shell goes by without being told to."""


def _read(code: str, ambient: dict[str, str]) -> set[str]:
    """Items that code may have used: those it names, itself or through functions; what is handed on to programs; what holds for all."""
    everything = asks_for_anything(code) or any(_brings_names(ambient.get(item, "")) for item in ("traps", "options"))
    named = words(code)
    found = {"options", "traps", "umask", "folder", "exported", *_ALWAYS}
    todo = _functions(ambient, named)
    while todo:
        item = todo.pop()
        found.add(item)
        everything = everything or asks_for_anything(ambient[item])
        named |= words(ambient[item])
        todo |= _functions(ambient, named) - found
    parts = {part for word in named for part in re.split(r"[.+-]", word)}
    variables = {f"variable {part}" for part in parts if part.isidentifier()}
    functions = {f"function {word}" for word in named}  # one that is defined later is seen by its name
    return found | variables | functions | ({"names", *ambient} if everything else set())


def _functions(ambient: dict[str, str], named: set[str]) -> set[str]:
    """Functions of chunks above that are called by one of these words."""
    return {item for item in ambient if item.startswith("function ") and item.split(" ", 1)[1] in named}


def _brings_names(text: str) -> bool:
    """Whether traps or aliases may use names that the code does not mention."""
    return "trap " in text or "alias " in text


def _failure(task: ChunkTask, place: Path, ended: Ended) -> Failure:
    """Where it failed, and what was said of it last, without the words by which the shell calls itself."""
    said = [line for line in ended.err.text.splitlines() if line.strip()]
    told = _SAID.match(said[-1]) if said else None
    line = _line(place, task.code)
    if not line and told and told[1].startswith("chunk:"):
        line = int(told[2])
    words_of_it = told[3] if told else said[-1].replace(f"{place}/", "") if said else ""
    return status_failure(task.label, ended.status, line, task.code, words_of_it)


def _line(place: Path, code: str) -> int:
    """The line of the chunk at which a command failed; 0 where that is not known."""
    try:
        told = (place / "failed").read_text(encoding="utf-8", errors="replace").split("\n", 1)[0].split()
    except OSError:
        return 0
    lines = [int(word) for word in told if word.isdigit()]
    outer = [line for line in lines[:-1] if line > 0]
    line = outer[-1] if outer else lines[-1] if lines else 0  # in a function the place that called it counts
    return line if 0 < line <= code.count("\n") + 1 else 0


def _write(path: Path, text: str) -> None:
    path.write_text(text, encoding="utf-8", errors="surrogateescape")
