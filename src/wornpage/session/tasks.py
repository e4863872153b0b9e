"""What sessions are asked, whatever their language, and what they answer."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct, field

from wornpage.session.results import Answer, ChunkResult, Failure
from wornpage.session.told import NOTHING_FOUND, Found


class Environment(Struct, frozen=True):
    """What a session starts with."""

    folder: Path
    """The page's."""
    page: str
    """The name of its file."""
    given: dict[str, object] = {}
    store: str | None = None
    """The folder that values are kept in; None to keep none."""
    noted: tuple[str, ...] = ()
    """What code of the page asks for, and is to be noted: `identity` of things, `times` and `rights` of files."""
    threads: int | None = None
    """How many numerical libraries may use; None for as many as they like."""
    memory: int | None = None
    """Bytes that a process of the session may take; None for what the machine has."""
    look: str = "library"
    """What figures begin with: the settings of the `library` that draws them, or those of the `page`."""


class Query(Struct, frozen=True):
    """Where a chunk of SQL goes, and what becomes of what it finds."""

    database: str
    """What the page calls the database; empty for the one in memory."""
    address: str
    """A file, `memory`, or a URL."""
    into: str = ""
    """The name that what it finds is bound to; empty for none."""
    probe: str = ""
    """A question whose answer tells whether what a server holds is as it was; empty for none."""


class ChunkTask(Struct, frozen=True):
    """One chunk, as a session needs to know it."""

    label: str
    code: str
    seed: int
    timeout: float | None
    """Seconds; None for as long as it takes."""
    width: float = 0
    """Centimetres of its figures; 0 to leave it to the code."""
    height: float = 0
    dpi: int = 200
    version: str = "1"
    """What the versions of the names it writes are called."""
    keep: bool = True
    """Whether its values are stored."""
    binds: str = ""
    """For the chunk an insert begins with: how its value is taken."""
    handed: dict[str, bytes] = {}
    """By name: values that it takes over from other languages (`session.crossing`)."""
    query: Query | None = None
    """For a chunk of SQL."""


class MarkTask(Struct, frozen=True):
    """One value mark, as a session needs to know it."""

    place: str
    expression: str
    format: str = ""
    seed: int = 0


class Standing(Struct, frozen=True):
    """What a name stands for at a place, as a session is told."""

    version: str
    print: str
    provider: dict[str, object]
    over: tuple[str, ...] = ()
    group: tuple[str, ...] = ()
    ends: bool = False


class Position(Struct, frozen=True):
    """Where in the page a chunk or a mark is to run: what has changed in the table of names since the last one."""

    table: dict[str, Standing] = field(default_factory=dict)
    gone: tuple[str, ...] = ()
    ambient: dict[str, str] = field(default_factory=dict)
    order: tuple[str, ...] | None = None
    """All names there are, in the order in which the page binds them; None for those the session knows, and `table`."""


class Ran(Struct, frozen=True):
    """What came of running a chunk."""

    result: ChunkResult
    found: Found = NOTHING_FOUND
    """What it read, wrote and left behind; nothing if the session ended."""
    needs: str = ""
    """A name that must be made again first: then nothing else counts."""
    leaves: bool = False
    """Whether it has left something that is to be called at the end of the session."""


class AtEnd(Struct, frozen=True):
    """What a session has done at its end, of what code of the page had left for then."""

    files: dict[str, str] = {}
    """Files that it has written, with what they hold."""
    needs: str = ""
    """A name that must be made again first: then nothing else counts."""
    troubles: tuple[str, ...] = ()
    """What went wrong, in words."""
    printed: str = ""
    """What was printed then, to both streams."""


NOTHING_AT_END = AtEnd()


class Handed(Struct, frozen=True):
    """A value on its way to another language."""

    data: bytes = b""
    """In the form of `session.crossing`."""
    needs: str = ""
    """A name that must be made again first: then nothing else counts."""
    trouble: str = ""
    """Why it cannot go, in words; empty where it can."""


class Answered(Struct, frozen=True):
    """What came of asking for one value mark."""

    answer: Answer
    found: Found = NOTHING_FOUND


class Answers(Struct, frozen=True):
    """What came of asking for several, one after the other."""

    answered: tuple[Answered, ...]
    needs: str = ""
    """A name that must be made again first: then nothing else counts."""


class MustMake(Exception):
    """What a name stands for cannot be had from the store: the chunk that made it must run again."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.name = name


class CannotFork(Exception):
    """A session cannot be forked: the system has no fork, or a library runs threads."""


class SessionOver(Exception):
    """The session's process is gone; nothing more can be asked of it."""


class Interrupted(KeyboardInterrupt):
    """The user broke off while a chunk ran; `failure` says where."""

    def __init__(self, failure: Failure) -> None:
        super().__init__()
        self.failure = failure
