"""What is kept of one run of a chunk: what it read, what it wrote, what it showed."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, TypeVar

import msgspec
from msgspec import Struct

from wornpage.store.addresses import digest

T = TypeVar("T")
Item = tuple[str, str]
"""Kind and name of something that can be read, such as `("name", "climate")`."""


class Read(Struct, frozen=True, array_like=True, order=True):
    """Something that was read, and what it was then."""

    kind: str
    name: str
    value: str

    @property
    def item(self) -> Item:
        """What was read, whatever it was."""
        return self.kind, self.name


class Provider(Struct, frozen=True, omit_defaults=True):
    """How a session can have what a name stands for: from the store, by its definition, by an import, or only by running."""

    live: bool = False
    """It can only be had by running its writers again."""
    blob: str = ""
    """The address of the stored values of a group of names."""
    buffers: tuple[str, ...] = ()
    """Addresses of their memory, in order."""
    locked: tuple[int, ...] = ()
    """Which of those must not be written to."""
    group: tuple[str, ...] = ()
    """All names stored there."""
    interned: tuple[str, ...] = ()
    """Those of them that stand for words of which there is one."""
    definition: bool = False
    """It is defined by a statement of `code`, which stands in `file`."""
    code: str = ""
    file: str = ""
    module: str = ""
    """The library that it is, or that holds it."""
    attribute: str = ""
    """By what name the library holds it; empty for the library itself."""

    @property
    def addresses(self) -> set[str]:
        """Every blob that it needs."""
        return {self.blob, *self.buffers} if self.blob else set()


class Bound(Struct, frozen=True, omit_defaults=True):
    """What a chunk left a name standing for."""

    print: str
    """Its fingerprint; for what has none `live:` and the run that it hangs on."""
    provider: Provider
    over: tuple[str, ...] = ()
    """Names of the functions and classes of the page that it is made of."""
    group: tuple[str, ...] = ()
    """Names that hold something changeable together with it, itself among them; empty for none."""
    pattern: str = ""
    """A hash of how they hold it."""
    outside: bool = False
    """Whether something beside the page's names holds it too, or a part of it: a module, a registry, a thing of a library's."""
    interned: bool = False
    """For a word: whether it is the one of its kind, which `is` can tell."""
    ends: bool = False
    """Whether something happens when it goes: who binds the name anew must have it."""
    parts: tuple[str, ...] = ()
    """What it has that can be asked for by a word: columns of a frame, keys of a mapping. Nothing hangs on it."""

    @property
    def is_live(self) -> bool:
        """Whether it can only be had by running its writers again."""
        return self.provider.live


class Trace(Struct, omit_defaults=True):
    """One run of a chunk."""

    label: str
    key: str
    """Where it lies: what the chunk's code is."""
    layout: str
    """A hash of the code as written."""
    run: str
    """Names the run: who has made a name in a session need not load it."""
    seconds: float
    reads: tuple[Read, ...]
    names: dict[str, Bound] = {}
    """What it bound or changed, in the order of binding."""
    deleted: tuple[str, ...] = ()
    anew: tuple[str, ...] = ()
    """Names that were deleted first, and so stand last among all names."""
    ambient: dict[str, str] = {}
    """Settings of the session that it changed; empty for those put back."""
    written: tuple[tuple[str, str], ...] = ()
    """Files, with what it left in them."""
    ended: tuple[tuple[str, str], ...] = ()
    """Files that the end of its session has changed or made for it, with what they hold since."""
    leaves: bool = False
    """Whether it has left something that is to be called at the end of its session."""
    end_of: str = ""
    """The runs that the page consisted of (`page_of`) when that was called last."""
    effects: str = ""
    """What it left behind that cannot be set back, in words."""
    modules: dict[str, str] = {}
    """Modules of the project that it loaded or changed, and what they are now."""
    network: bool = False
    fleeting: str = ""
    """Why nobody can know whether it would do the same again; such a trace is not kept."""
    language: str = "python"
    shown: list[dict[str, Any]] = []
    failure: dict[str, object] | None = None
    at: float = 0.0
    """When it ended, in seconds since the epoch; 0 where that is not known. Nothing hangs on it."""

    def read(self, kind: str) -> dict[str, str]:
        """What it read of one kind, by name."""
        return {read.name: read.value for read in self.reads if read.kind == kind}

    @property
    def files(self) -> dict[str, str]:
        """The files it wrote, with what they hold once its session has ended."""
        return dict((*self.written, *self.ended))

    @property
    def addresses(self) -> set[str]:
        """Every blob that it refers to."""
        pictures = {item["data"] for item in self.shown if item["kind"] == "figure"}
        pictures |= {one for item in self.shown for one in _of_live(item.get("live"))}
        return pictures.union(*(bound.provider.addresses for bound in self.names.values()))


def _of_live(told: dict[str, Any] | None) -> list[str]:
    """Blobs of what a figure is in a browser."""
    if told is None:
        return []
    return list(told["frames"]) if "frames" in told else [told["html"], *told["scripts"]]


def page_of(traces: Iterable[Trace]) -> str:
    """A name for a page that consists of these runs: another where any of them is of other code, or found something else."""
    return digest([[trace.key, [[*read.item, read.value] for read in trace.reads]] for trace in traces])


class Last(Struct, frozen=True, omit_defaults=True):
    """As much of a chunk's last run as is needed to say why it must run again, and what it will do."""

    key: str
    run: str
    seconds: float
    reads: tuple[Read, ...]
    names: tuple[str, ...] = ()
    written: tuple[tuple[str, str], ...] = ()
    """Files, with what they hold once its session has ended."""
    ambient: dict[str, str] = {}
    modules: dict[str, str] = {}
    effects: str = ""
    language: str = "python"
    fleeting: str = ""
    parts: dict[str, tuple[str, ...]] = {}
    """By name: what the names that it bound have (`Bound.parts`)."""

    @property
    def files(self) -> dict[str, str]:
        """As a trace has it."""
        return dict(self.written)

    def read(self, kind: str) -> dict[str, str]:
        """What it read of one kind, by name."""
        return {read.name: read.value for read in self.reads if read.kind == kind}


def last_of(trace: Trace) -> Last:
    """What is kept of a trace to say why."""
    return Last(
        trace.key, trace.run, trace.seconds, trace.reads, tuple(sorted(trace.names)), tuple(trace.files.items()), trace.ambient,
        trace.modules, trace.effects, trace.language, trace.fleeting,
        {name: bound.parts for name, bound in trace.names.items() if bound.parts},
    )  # fmt: skip


def as_kept(data: object) -> Any:
    """A struct as plain data for JSON."""
    return msgspec.to_builtins(data)


def from_kept(data: object, kind: type[T]) -> T:
    """The reverse. Raises `ValueError` for data of another shape."""
    try:
        return msgspec.convert(data, kind)
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None
