"""Why a chunk must run, in words: what its last run read, compared with what that is now."""

from __future__ import annotations

import datetime
from pathlib import Path
from typing import Any

from wornpage.plan.state import State
from wornpage.store.place import write_whole
from wornpage.store.signing import opened, sealed
from wornpage.store.traces import digest
from wornpage.tree.nodes import Chunk

_KEPT = ("key", "run", "reads", "written", "seconds", "ambient", "modules", "effects")


class Reasons:
    """The last run of each chunk of a page, as far as it is needed to say why it must run again."""

    def __init__(self, folder: Path, page: str) -> None:
        self._path = folder / f"{digest(page)}.last"
        try:
            self.last: dict[str, dict[str, Any]] = opened(self._path.read_bytes(), self._path.name)
        except (OSError, ValueError):
            self.last = {}
        self._noted: dict[str, dict[str, Any]] = {}

    def note(self, label: str, trace: dict[str, Any]) -> None:
        """This is what the chunk went by now."""
        self._noted[label] = {**{key: trace[key] for key in _KEPT}, "names": sorted(trace["names"])}

    def save(self, may_write: bool) -> None:
        """Keep it for the next time."""
        merged = {**self.last, **self._noted}
        if may_write and merged != self.last:
            write_whole(self._path, sealed(merged, self._path.name))

    def seconds(self, label: str) -> float | None:
        """How long the chunk took when it last ran."""
        return self.last[label]["seconds"] if label in self.last else None

    def final(self, path: str) -> str:
        """What a file held when the page had last run to its end."""
        held = [content for last in self.last.values() for name, content in last["written"] if name == path]
        return held[-1] if held else ""

    def why(self, chunk: Chunk, key: str, state: State, seed: int, afresh: bool) -> str:
        """Why `chunk` runs."""
        if afresh:
            return "everything runs afresh"
        last = self.last.get(chunk.label)
        if last is None:
            return "it has not run yet"
        if last["key"] != key:
            return "its code or options changed"
        for (kind, name), value in last["reads"]:
            now = state.now((kind, name), seed)
            if now != value:
                words = _words(kind, name, value, now)
                return (
                    f"{words} on {_changed_on(state.full(name))}"
                    if kind == "file" and words.endswith("changed")
                    else words
                )
        return "what it made is gone"


def _changed_on(path: str) -> str:
    """When a file was last changed, to the minute."""
    try:
        return f"{datetime.datetime.fromtimestamp(Path(path).stat().st_mtime):%Y-%m-%d at %H:%M}"
    except OSError:
        return "a day unknown"


def _words(kind: str, name: str, before: str, now: str) -> str:
    if now.startswith("pending:"):
        return f"reads `{name}`, which `{now[8:]}` will write anew"
    match kind:
        case "name":
            if now == "absent":
                return f"reads `{name}`, which is not there any more"
            return f"reads `{name}`, which {'was not there' if before == 'absent' else 'changed'}"
        case "presence":
            return f"looks whether there is a `{name}`, which {'is gone' if now == 'absent' else 'is there now'}"
        case "names":
            return "looks which names there are, and they changed"
        case "sharing":
            return f"depends on what holds `{name}` together with other names, which changed"
        case "glob":
            return f"the files {name} changed"
        case "times":
            return f"{name} was written at another time"
        case "rights":
            return f"who may do what with {name} changed"
        case "sight":
            return "code of the page asks now whether two things are one"
        case "place":
            return "the page lies in another folder"
        case "given":
            return f"given.{name.replace('-', '_')} changed"
        case "file":
            return f"{name} " + ("is gone" if now == "absent" else "appeared" if before == "absent" else "changed")
        case "listing":
            return f"the files in {name} changed"
        case "ambient":
            return f"the setting {name.removeprefix('rc:')} changed"
        case "environment":
            return f"the environment variable {name} changed"
        case "package":
            return f"{name} {before} → {now}"
        case "seed":
            return "its seed changed"
        case "layout":
            return f"it shows lines of `{name}`, which moved"
    return "a change that a chunk above left behind"
