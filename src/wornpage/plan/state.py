"""What holds at a place of the page: its names, its surroundings, its files. Chunks read it and move it on."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from msgspec import Struct, field

from wornpage.session.environment import session_variable
from wornpage.store.files import content, listing
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

    interned: bool = False
    """For a word: whether CPython holds it as the one of its kind, which `is` can tell."""

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
    compares_identity: bool = False
    """Whether some code of the page asks if two things are one object."""
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
            self.compares_identity,
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
            case "names":
                return digest(sorted((n, e.print) for n, e in self.names.items()))
            case "given":
                return json.dumps(self.given.get(name, "absent"), sort_keys=True, default=str)
            case "file":
                return self.files[name][0] if name in self.files else content(self.full(name))
            case "listing":
                return listing(self.full(name))
            case "glob":
                return digest(
                    [
                        (str(p.relative_to(self.folder)), content(str(p)))
                        for p in sorted(self.folder.glob(name))
                        if p.is_file()
                    ]
                )
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
        for name, told in trace["names"].items():
            before = self.names.get(name)
            live = "live" in told["provider"]
            earlier = before.writers if live and before and before.is_live and name in reads else ()
            self.names[name] = Entry(trace["run"], told["print"], told["provider"], (*earlier, step), told["interned"])
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
