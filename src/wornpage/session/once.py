"""Sessions that keep nothing running: each chunk is one process of a program, watched from here while it runs."""

from __future__ import annotations

import os
import re
import tempfile
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path

from msgspec import Struct, field
from msgspec.structs import replace

from wornpage.session.bounds import bound
from wornpage.session.environment import session_environment, session_variable
from wornpage.session.faults import crash_failure, interrupt_failure, timeout_failure
from wornpage.session.footprints import Footprints
from wornpage.session.language import Session
from wornpage.session.program.process import NOTHING, Ended, Order, Process
from wornpage.session.reading import Written
from wornpage.session.results import ChunkResult, Failure, Frame, Printed, Raised, Shown, ShownFigure
from wornpage.session.tasks import (
    NOTHING_AT_END,
    Answers,
    AtEnd,
    CannotFork,
    ChunkTask,
    Environment,
    Handed,
    Interrupted,
    MarkTask,
    Position,
    Ran,
)
from wornpage.session.told import Found

_PICTURES = {".svg": "svg", ".png": "png", ".jpg": "jpeg", ".jpeg": "jpeg", ".gif": "gif"}
_VARIABLE = re.compile(r"(?:\$\{?|\benv\.|ENVIRON\[['\"]|environ\[['\"]|getenv\(['\"])([A-Za-z_]\w+)")
"""How code of many languages asks for a variable of the environment."""


class Outcome(Struct):
    """What a language makes of a process that has ended."""

    failure: Failure | None = None
    found: Found = field(default_factory=Found)
    only_written: tuple[str, ...] = ()
    """Files, as the code names them, that it writes without reading them first."""
    asked: tuple[tuple[str, str], ...] = ()
    """Looks at paths that it tells of (`Footprints.end`)."""


class OnceSession:
    """What the sessions of such languages have in common; each says how a chunk is run, and what came of it."""

    left = False
    """Each chunk comes to its own end."""

    def __init__(self, threads: int | None) -> None:
        self.on_tally: Callable[[str, int, int], None] | None = None
        self._threads = threads
        self._running: Process | None = None
        self._is_open = False

    def open(self, environment: Environment) -> None:
        """Go to the page's folder."""
        self.environment = environment
        self.footprints = Footprints(environment.folder, environment.page)
        self._is_open = True

    # --- what each language says --------------------------------------------------------------

    def order(self, task: ChunkTask, at: Position, place: Path) -> Order:
        """How a chunk is run; `place` is a folder for whatever it takes. Raises `OSError`."""
        raise NotImplementedError

    def text(self, task: ChunkTask, at: Position) -> str:
        """Where the files are named that a chunk may touch."""
        return task.code

    def outcome(self, task: ChunkTask, at: Position, place: Path, ended: Ended) -> Outcome:
        """What came of it."""
        raise NotImplementedError

    # --- running ------------------------------------------------------------------------------

    def run(self, task: ChunkTask, at: Position) -> Ran:
        """Run one chunk to its end. Raises `Interrupted`."""
        begun = time.monotonic()
        with tempfile.TemporaryDirectory(prefix="worn-") as name:
            place = Path(name)
            self.footprints.begin(self.text(task, at))
            order = self.order(task, at, place)
            variables = {**session_environment(self._threads), **self._given(task.code), **order.variables}
            process = self._running = Process(order, self.environment.folder, variables)
            bound(process.pid, self.environment.memory)
            self.footprints.follow(process.pid)
            try:
                ended = process.wait(begun + task.timeout if task.timeout else None, self.footprints.look)
            except TimeoutError:
                process.end()
                failure = timeout_failure(task.label, task.timeout or 0, None)
                return Ran(ChunkResult(_printed(*process.rest(), place), failure, time.monotonic() - begun))
            except KeyboardInterrupt:
                process.end()
                process.rest()
                raise Interrupted(interrupt_failure(task.label, None)) from None
            finally:
                self._running = None
            return self._ran(task, at, place, ended, time.monotonic() - begun)

    def _ran(self, task: ChunkTask, at: Position, place: Path, ended: Ended, seconds: float) -> Ran:
        out = _printed(ended.out, NOTHING, place)
        if ended.status < 0:
            shown = (*out, *_printed(NOTHING, ended.err, place))
            return Ran(ChunkResult(shown, crash_failure(task.label, "", ended.status), seconds))
        made = self.outcome(task, at, place, ended)
        err = _printed(NOTHING, _untold(ended.err, made.failure), place)
        pictures = tuple(
            word for word in re.findall(r"[\w./~+-]+", task.code) if Path(word).suffix.lower() in _PICTURES
        )
        files, written = self.footprints.end((*made.only_written, *pictures), made.asked)
        figures = _figures(written, task.code + ended.out.text, self.environment.folder)
        found = _completed(made.found, task.code, self.environment, self._threads, files, written)
        return Ran(ChunkResult((*out, *figures, *err), made.failure, seconds), found)

    def _given(self, code: str) -> dict[str, str]:
        """Given values as variables, as far as the code names them."""
        return {name: value for name, (_, value) in _given_variables(self.environment).items() if name in code}

    # --- what is not there --------------------------------------------------------------------

    def answer(self, marks: Sequence[MarkTask], at: Position) -> Answers:
        """There are no values to ask for."""
        return Answers(())

    def give(self, name: str, at: Position) -> Handed:
        """There are no values to give."""
        return Handed(trouble="its language has no values that could go to another")

    def hold(self, at: Position, names: Sequence[str] | None = None) -> None:
        """There is nothing to hold."""

    def tells_who(self) -> bool:
        return False

    def fork(self, given: Mapping[str, object], ahead: bool = False) -> Session:
        """Raises `CannotFork`: a new one costs nothing."""
        raise CannotFork

    def interrupt(self) -> None:
        """Interrupt the chunk that is running; from another thread."""
        if self._running is not None:
            self._running.interrupt()

    def kill(self) -> None:
        """End it at once; from another thread."""
        if self._running is not None:
            self._running.kill()

    def end(self, at: Position) -> AtEnd:
        """Nothing is left for it."""
        self.close()
        return NOTHING_AT_END

    def close(self) -> None:
        """Nothing is left that runs; no file is looked after any more."""
        self.kill()
        if self._is_open:
            self._is_open = False
            self.footprints.close()


def _completed(
    found: Found, code: str, environment: Environment, threads: int | None, files: dict[str, dict[str, str]],
    written: tuple[tuple[str, str], ...],
) -> Found:  # fmt: skip
    """What a program has been found to read and write, with what can be told of its code: given values, the environment."""
    given = tuple(name for variable, (name, _) in _given_variables(environment).items() if variable in code)
    variables = {
        name: "gone" if (value := session_variable(name, threads)) is None else f"={value}"
        for name in sorted({*_VARIABLE.findall(code), *(os.environ.keys() & set(re.findall(r"\w{2,}", code)))})
        if not name.startswith("GIVEN_")
    }
    return replace(found, files=files, written=written, given=given, environment=variables, spawned=True)


def status_failure(label: str, status: int, line: int, code: str, words: str) -> Failure:
    """A program that ended with another status than 0, at a line of its code if that is known."""
    said = [one for one in words.splitlines() if one.strip()]
    lines = code.splitlines()
    text = lines[line - 1] if 0 < line <= len(lines) else ""
    frames = (Frame(f"chunk:{label}", line, "", text),)
    return Failure("status", (Raised(f"it ended with status {status}", said[-1].strip() if said else "", frames),))


def _given_variables(environment: Environment) -> dict[str, tuple[str, str]]:
    """By the name of a variable: the name of the given value, and what it is as text."""
    found = {}
    for name, value in environment.given.items():
        variable = "GIVEN_" + re.sub(r"\W", "_", name).upper()
        found[variable] = (name.replace("-", "_"), _as_text(value))
    return found


def _as_text(value: object) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, list | tuple):
        return "\n".join(map(_as_text, value))
    return "" if value is None else str(value)


def _printed(out: Written, err: Written, place: Path) -> tuple[Shown, ...]:
    """What was printed, without the path of a folder that is another each time."""
    return tuple(
        Printed(written.text.replace(f"{place}{os.sep}", ""), role, written.lines_cut, written.bytes_cut)
        for written, role in ((out, "output"), (err, "notice"))
        if written.text
    )


def _untold(err: Written, failure: Failure | None) -> Written:
    """What went to standard error, without its last line where the failure says the same."""
    lines = err.text.rstrip("\n").split("\n")
    if failure is None or not failure.last.message or not lines[-1].endswith(failure.last.message):
        return err
    return replace(err, text="".join(f"{line}\n" for line in lines[:-1]))


def _figures(written: tuple[tuple[str, str], ...], named: str, folder: Path) -> tuple[Shown, ...]:
    """Pictures that the program has written, and that its code or its output names, in the order in which they are named."""
    made = [
        (named.find(path.rpartition("/")[2]), path) for path, _ in written if Path(path).suffix.lower() in _PICTURES
    ]
    shown = []
    for at, path in sorted(made):
        with suppress(OSError):
            data = (folder / path).read_bytes()
            if at >= 0 and data:
                shown.append(ShownFigure(_PICTURES[Path(path).suffix.lower()], data, 0, 0, ""))
    return tuple(shown)
