"""What holds at a place of the page: its names, its surroundings, its files. Chunks read it and move it on."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from msgspec import Struct, field

from wornpage.plan.codes import Sight
from wornpage.session.environment import session_variable
from wornpage.store.files import content, globbed, listing, rights, times
from wornpage.store.packages import version_of
from wornpage.store.traces import Item, digest


class Entry(Struct):
    """What a name stands for."""

    version: str
    """Which run made it: the same in a session that has made it, and so need not load it."""
    print: str
    """Its fingerprint."""
    provider: dict[str, Any]
    """How a session can have it."""
    writers: tuple[int, ...]
    """The steps that must run again, in order, where it can be had in no other way."""

    over: tuple[str, ...] = ()
    """Names of the functions and classes of the page that it is made of."""
    group: str = ""
    """What it shares with others: names with the same one hold something changeable together. Empty for nothing."""
    pattern: str = ""
    """A hash of how they hold it."""
    interned: bool = False
    """For a word: whether CPython holds it as the one of its kind, which `is` can tell."""

    ends: bool = False
    """Whether something happens when it goes: who binds the name anew must have it."""

    @property
    def is_live(self) -> bool:
        """Whether it can only be had by running its writers again."""
        return "live" in self.provider


class State(Struct):
    """The state before a step. `copy` is shallow: entries are shared with the states before it."""

    folder: Path
    given: dict[str, Any]
    threads: int | None
    layouts: dict[str, str]
    """A hash of each chunk's code as written, by label."""
    sight: Sight = Sight()
    """What code of the page asks for beyond what things hold."""
    names: dict[str, Entry] = field(default_factory=dict)
    ambient: dict[str, str] = field(default_factory=dict)
    effects: str = ""
    modules: dict[str, str] = field(default_factory=dict)
    """Modules of the project that chunks above have loaded: what each is now, its state included."""
    files: dict[str, tuple[str, int]] = field(default_factory=dict)
    """Files that chunks above have written: content, and the step that wrote it last."""

    def copy(self) -> State:
        """The same, to be moved on."""
        return State(
            self.folder,
            self.given,
            self.threads,
            self.layouts,
            self.sight,
            dict(self.names),
            dict(self.ambient),
            self.effects,
            dict(self.modules),
            dict(self.files),
        )

    def now(self, item: Item, seed: int) -> str:
        """What something that can be read is now, as it is told in traces."""
        kind, name = item
        match kind:
            case "name":
                entry = self.names.get(name)
                return entry.print if entry else "absent"
            case "presence":
                return "there" if name in self.names else "absent"
            case "names":
                return digest(list(self.names))
            case "sharing":
                return self._sharing(name)
            case "given":
                return json.dumps(self.given.get(name, "absent"), sort_keys=True, default=str)
            case "file":
                return self.files[name][0] if name in self.files else content(self.full(name))
            case "times":
                return times(self.full(name))
            case "rights":
                return rights(self.full(name))
            case "sight":
                return str(getattr(self.sight, name))
            case "place":
                return str(self.folder)
            case "listing":
                return listing(self.full(name))
            case "glob":
                return globbed(str(self.folder), name)
            case "ambient":
                return self.ambient.get(name, "first")
            case "environment":
                return self._variable(name)
            case "surroundings":
                return digest(sorted((k, v) for k, v in self.ambient.items() if k.startswith("env:")))
            case "module":
                return self.modules.get(name, "unloaded")
            case "identity":
                entry = self.names.get(name)
                return str(bool(entry and entry.interned))
            case "package":
                return version_of(name)
            case "effects":
                return self.effects
            case "seed":
                return str(seed)
            case "layout":
                return self.layouts.get(name, "absent")
        return "unknown"

    def _sharing(self, name: str) -> str:
        """With which names, and how, `name` holds something together."""
        entry = self.names.get(name)
        if entry is None:
            return "absent"
        if not entry.group:
            return "alone"
        return digest(sorted(n for n, e in self.names.items() if e.group == entry.group), entry.pattern)

    def full(self, path: str) -> str:
        """A path as the system knows it."""
        return str(self.folder / path)

    def _variable(self, name: str) -> str:
        told = self.ambient.get(f"env:{name}")
        if told is not None:
            return told
        value = session_variable(name, self.threads)
        return "gone" if value is None else f"={value}"

    def apply(self, trace: dict[str, Any], step: int) -> None:
        """Move on over a chunk that did what `trace` tells."""
        for name in trace["deleted"]:
            self.names.pop(name, None)
        reads = {what for (kind, what), _ in trace["reads"] if kind == "name"}
        before = {name: self.names.get(name) for name in trace["names"]}
        for name in trace["anew"]:
            self.names.pop(name, None)
        for name, told in trace["names"].items():
            old = before[name]
            live = "live" in told["provider"]
            earlier = old.writers if live and old and old.is_live and name in reads else ()
            group = f"{trace['run']} {' '.join(told['group'])}" if told["group"] else ""
            self.names[name] = Entry(
                trace["run"], told["print"], told["provider"], (*earlier, step), tuple(told["over"]), group,
                told["pattern"], told["interned"], told["ends"],
            )  # fmt: skip
        for item, value in trace["ambient"].items():
            if value:
                self.ambient[item] = value
            else:
                self.ambient.pop(item, None)
        self.modules |= trace["modules"]
        for path, held in trace["written"]:
            self.files[path] = (held, step)
        if trace["effects"] and not trace["effects"].startswith("it imported"):
            self.effects = digest(self.effects, trace["key"])
