"""What a language is to Worn Page: how its code is read, and how its sessions are started and asked.

One folder makes a language; `session/languages.py` names it in its table, or a package of its own does by an entry point.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Protocol

from msgspec import Struct

from wornpage.session.tasks import Answers, AtEnd, ChunkTask, Environment, Handed, MarkTask, Position, Ran


class Fault(Struct, frozen=True):
    """What is wrong with code, told without running it."""

    rule: str
    """The rule of checking that it breaks: `code`, `names`, `packages`."""
    label: str
    line: int
    """Of the chunk, counted from 1."""
    column: int
    what: str
    hint: str = ""
    later: str = ""
    """The label of a chunk further down that defines what is missing; empty for none."""


class Session(Protocol):
    """A process, or whatever else runs chunks, with names of its own that only chunks of its language see."""

    on_tally: Callable[[str, int, int], None] | None
    """Told how far a chunk has come: a name, how many are done, of how many (0 where that is unknown)."""

    def open(self, environment: Environment) -> None:
        """Go to the page's folder and start with empty names. Called once, first."""

    def run(self, task: ChunkTask, at: Position) -> Ran:
        """Run one chunk to its end. Raises `Interrupted`; `SessionOver` if an earlier chunk has ended the session."""

    def answer(self, marks: Sequence[MarkTask], at: Position) -> Answers:
        """What each mark finds. Raises `SessionOver`."""

    def give(self, name: str, at: Position) -> Handed:
        """What a name stands for, as it goes to another language. Raises `SessionOver`."""

    def hold(self, at: Position, names: Sequence[str] | None = None) -> None:
        """Load what the names of the page stand for, or some of them, so that forked sessions have it. Raises `SessionOver`."""

    def fork(self, given: Mapping[str, object], ahead: bool = False) -> Session:
        """A session that is as this one is now, with other given values. Raises `CannotFork`.

        One that is to run chunks `ahead` of their turn ends where a chunk would do what others can see, and none is had
        where it would share with this one what either may change.
        """

    def tells_who(self) -> bool:
        """Whether it is known of all that is written in the project meanwhile whether this session did it."""

    def interrupt(self) -> None:
        """Interrupt the chunk that is running; from another thread."""

    def kill(self) -> None:
        """End it at once; from another thread."""

    @property
    def left(self) -> bool:
        """Whether something is left for its end: functions to be called, files to be closed."""

    def end(self, at: Position) -> AtEnd:
        """Do what is left for the end, at the end of the page, and end; nothing can be asked of it then."""

    def close(self) -> None:
        """End it, and all that it has started, without what is left for the end; may be called twice."""


class CodeReader(Protocol):
    """What can be told of code by reading it. Code that cannot be read says as little as possible, and never fails."""

    def normal_form(self, code: str) -> str:
        """A hash that is the same for code which does the same: without comments and layout."""

    def mentioned(self, code: str) -> frozenset[str]:
        """Every name that it mentions anywhere."""

    def bound(self, code: str) -> set[str]:
        """Names that it binds."""

    def definitions(self, code: str) -> dict[str, set[str]]:
        """For each function or class that it defines: the names that are mentioned there."""

    def asks_for(self, code: str) -> frozenset[str]:
        """Which of `identity`, `lines`, `times`, `rights` and `listings` it has words for (`plan.sight.Sight`)."""

    def imported(self, code: str) -> frozenset[str]:
        """Modules that it imports, by their first names."""

    def clock(self, code: str) -> str:
        """A call that asks for the time, as written; empty for none."""

    def labels(self, code: str) -> tuple[frozenset[str], bool]:
        """Labels that its calls of `page` give; and whether they give others, which cannot be read off it."""

    def alone(self, code: str, given: Mapping[str, object]) -> list[str]:
        """Lines that stand for `given` and `page` where this code is a script of its own."""

    def literal(self, value: object) -> str:
        """A given value, or a declared default, as code."""

    def binding(self, values: Mapping[str, str], file: str | None, told: Sequence[str]) -> str:
        """Code that an insert begins with: it binds names, and its value is the file's name, and what it is told."""


class Language(Protocol):
    """One language."""

    @property
    def name(self) -> str:
        """As chunks and traces have it."""

    @property
    def home(self) -> str:
        """The language in whose sessions its chunks run: its own name, where it has sessions of its own."""

    @property
    def fences(self) -> tuple[str, ...]:
        """Words that may stand behind a fence, its name among them."""

    @property
    def suffixes(self) -> tuple[str, ...]:
        """Of files with its code, such as `.py`."""

    @property
    def comment(self) -> str:
        """What begins a comment that goes to the end of the line."""

    @property
    def has_values(self) -> bool:
        """Whether value marks can be asked in it."""

    @property
    def beforehand(self) -> str:
        """How sessions are had that stand where they are wanted: by a `fork` of one that does, or by a `spare` one that was made
        ready while nobody waited; empty where it is quick enough to begin one."""

    @property
    def trouble(self) -> str:
        """Why no session of it can be had on this machine, and what would help; empty for nothing."""

    @property
    def version(self) -> str:
        """Which interpreter runs it: with another nothing made before is reused."""

    @property
    def code(self) -> CodeReader:
        """How its code is read."""

    def faults(self, codes: Sequence[tuple[str, str]]) -> Sequence[Fault]:
        """What is wrong with code by label, in page order, as far as can be told without running it."""

    def start(self, threads: int | None) -> Session:
        """A session that nothing has been asked of. Raises `OSError`."""
