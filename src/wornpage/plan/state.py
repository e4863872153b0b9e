"""What holds at a place of the page: its names, its surroundings, its files. Chunks read it and move it on."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from msgspec import Struct, field

from wornpage.plan.reads import kind_of
from wornpage.plan.sight import Sight
from wornpage.session.environment import session_variable
from wornpage.store.addresses import digest
from wornpage.store.trace import Bound, Item, Last, Provider, Trace


class Entry(Struct):
    """What a name stands for."""

    version: str
    """Which run made it: the same in a session that has made it, and so need not load it."""
    bound: Bound
    writers: tuple[int, ...]
    """The steps that must run again, in order, where it can be had in no other way."""
    group: str = ""
    """What it shares with others: names with the same one hold something changeable together. Empty for nothing."""

    @property
    def print(self) -> str:
        """Its fingerprint."""
        return self.bound.print

    @property
    def pattern(self) -> str:
        """A hash of how those of its group hold what they share."""
        return self.bound.pattern

    @property
    def outside(self) -> bool:
        """Whether something beside the page's names holds it too."""
        return self.bound.outside

    @property
    def interned(self) -> bool:
        """Whether it is a word of which there is one."""
        return self.bound.interned

    @property
    def is_live(self) -> bool:
        """Whether it can only be had by running its writers again."""
        return self.bound.is_live


class World(Struct):
    """What holds in the sessions of one language."""

    names: dict[str, Entry] = field(default_factory=dict)
    """In the order in which the page binds them."""
    ambient: dict[str, str] = field(default_factory=dict)
    effects: str = ""
    """Hangs on every chunk above that left something behind which cannot be set back."""
    modules: dict[str, str] = field(default_factory=dict)
    """Modules of the project that chunks above have loaded: what each is now, its state included."""

    def copy(self) -> World:
        """The same, to be moved on; entries are shared."""
        return World(dict(self.names), dict(self.ambient), self.effects, dict(self.modules))


class View(Struct, frozen=True):
    """The state as a chunk or a mark sees it: what kinds of reads ask (`plan.reads.kind.Here`)."""

    folder: Path
    seed: int
    given: dict[str, object]
    names: dict[str, Entry]
    ambient: dict[str, str]
    effects: str
    modules: dict[str, str]
    files: dict[str, tuple[str, int]]
    layouts: dict[str, str]
    sight: Sight
    threads: int | None
    worlds: dict[str, World]

    def full(self, path: str) -> str:
        """A path as the system knows it."""
        return str(self.folder / path)

    def elsewhere(self, language: str, name: str) -> str:
        """The fingerprint of what a name stands for in another language; `absent` for none."""
        world = self.worlds.get(language)
        return world.names[name].print if world is not None and name in world.names else "absent"

    def variable(self, name: str) -> str:
        """A variable of the environment, as chunks above have left it."""
        told = self.ambient.get(f"env:{name}")
        if told is not None:
            return told
        value = session_variable(name, self.threads)
        return "gone" if value is None else f"={value}"

    def now(self, item: Item) -> str:
        """What something that can be read is now, as it is told in traces."""
        kind = kind_of(item[0])
        return kind.now(item[1], self) if kind else "unknown"


class State(Struct):
    """The state before a step. `copy` is shallow: entries are shared with the states before it."""

    folder: Path
    given: dict[str, object]
    threads: int | None
    layouts: dict[str, str]
    """A hash of each chunk's code as written, by label."""
    sight: Sight = Sight()
    """What code of the page asks for beyond what things hold."""
    worlds: dict[str, World] = field(default_factory=dict)
    """By language."""
    files: dict[str, tuple[str, int]] = field(default_factory=dict)
    """Files that chunks above have written: content, and the step that wrote it last."""

    def copy(self) -> State:
        """The same, to be moved on."""
        worlds = {language: world.copy() for language, world in self.worlds.items()}
        return State(self.folder, self.given, self.threads, self.layouts, self.sight, worlds, dict(self.files))

    def world(self, language: str) -> World:
        """What holds in the sessions of a language."""
        return self.worlds.setdefault(language, World())

    def seen(self, language: str, seed: int = 0) -> View:
        """The state as code of a language sees it, whose random numbers begin with `seed`."""
        world = self.world(language)
        return View(
            self.folder, seed, self.given, world.names, world.ambient, world.effects, world.modules, self.files,
            self.layouts, self.sight, self.threads, self.worlds,
        )  # fmt: skip

    def full(self, path: str) -> str:
        """A path as the system knows it."""
        return str(self.folder / path)

    def apply(self, trace: Trace, step: int) -> None:
        """Move on over a chunk that did what `trace` tells."""
        world = self.world(trace.language)
        for name in trace.deleted:
            world.names.pop(name, None)
        reads = trace.read("name")
        before = {name: world.names.get(name) for name in trace.names}
        for name in trace.anew:
            world.names.pop(name, None)
        for name, bound in trace.names.items():
            old = before[name]
            earlier = old.writers if bound.is_live and old and old.is_live and name in reads else ()
            group = f"{trace.run} {' '.join(bound.group)}" if bound.group else ""
            world.names[name] = Entry(trace.run, bound, (*earlier, step), group)
        for item, value in trace.ambient.items():
            if value:
                world.ambient[item] = value
            else:
                world.ambient.pop(item, None)
        world.modules |= trace.modules
        for path, held in trace.written:
            self.files[path] = (held, step)
        if _lasts(trace.effects):  # what it left behind hangs on all that it read
            world.effects = digest(world.effects, trace.key, [read.value for read in trace.reads])

    def expect_names(self, label: str, names: Iterable[str], language: str, step: int) -> None:
        """These are names that a stale chunk will write anew."""
        held = self.world(language).names
        for name in names:
            held[name] = Entry("", Bound(f"{PENDING}{label}", Provider(live=True)), (step,))

    def expect(self, label: str, last: Last, step: int) -> None:
        """Move on over a stale chunk: what it wrote when it last ran it will write anew, as far as is known."""
        world = self.world(last.language)
        world.ambient |= {item: value for item, value in last.ambient.items() if value}
        world.modules |= last.modules
        self.expect_names(label, last.names, last.language, step)
        for path, _ in last.written:
            self.files[path] = (f"{PENDING}{label}", step)
        if _lasts(last.effects):
            world.effects = digest(world.effects, f"{PENDING}{label}")


def _lasts(effects: str) -> bool:
    """Whether steps below read what a chunk has left behind as such: modules of the project are told by what they are."""
    return bool(effects) and not effects.startswith("it imported")


PENDING = "pending:"
"""Stands before the label of the chunk that will write something anew."""
