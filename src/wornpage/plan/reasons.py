"""Why a chunk must run, in words: what its last run read, compared with what that is now."""

from __future__ import annotations

from pathlib import Path

from wornpage.plan.reads import kind_of
from wornpage.plan.reads.kind import FileLook
from wornpage.plan.state import PENDING, View
from wornpage.store.addresses import digest
from wornpage.store.files import content
from wornpage.store.place import own_name, write_whole
from wornpage.store.signing import opened, sealed
from wornpage.store.trace import Last, Read, Trace, as_kept, from_kept, last_of
from wornpage.tree.nodes import Chunk


class Reasons:
    """The last run of each chunk of a page, as far as it is needed to say why it must run again."""

    def __init__(self, folder: Path, page: str) -> None:
        self._path = folder / _called(page)
        self.last: dict[str, Last] = _read(self._path)
        self._noted: dict[str, Last] = {}

    def note(self, label: str, trace: Trace) -> None:
        """This is what the chunk went by now."""
        self._noted[label] = last_of(trace)

    def save(self, may_write: bool) -> None:
        """Keep it for the next time."""
        earlier = {label: last for label, last in self.last.items() if label not in self._noted}
        merged = earlier | self._noted  # in the order of the page as it is now, which tells who writes a file last
        if may_write and (merged != self.last or list(merged) != list(self.last)):
            write_whole(self._path, sealed(as_kept(merged), self._path.name))

    def seconds(self, label: str) -> float | None:
        """How long the chunk took when it last ran."""
        return self.last[label].seconds if label in self.last else None

    def final(self, path: str) -> str:
        """What a file held when the page had last run to its end."""
        held = [content for last in self.last.values() for name, content in last.written if name == path]
        return held[-1] if held else ""

    def is_last(self, run: str) -> bool:
        """Whether what files hold now comes of this run of a chunk, and not of one before or after it."""
        return any(last.run == run for last in self.last.values())

    def why(self, chunk: Chunk, key: str, here: View) -> str:
        """Why `chunk` runs."""
        last = self.last.get(chunk.label)
        if last is None:
            return "it has not run yet"
        if last.key != key:
            return "its code or options changed"
        if last.fleeting:
            return f"it runs each time: {last.fleeting}"
        if other := [read for read in last.reads if here.now(read.item) != read.value]:
            read = next((read for read in other if not _is_own(read, last, here)), None)
            return _words(read, here) if read is not None else _own_words(other[0])
        return "what it made is gone"


def _called(page: str) -> str:
    return f"{digest(page)}.last"


def last_file(store: Path, page: Path, edition: str = "") -> Path:
    """Where the last runs of a page's chunks are kept, or of one of its editions."""
    return store / "last" / _called(own_name(page, edition))


def _read(path: Path) -> dict[str, Last]:
    try:
        return from_kept(opened(path.read_bytes(), path.name), dict[str, Last])
    except (OSError, ValueError):
        return {}


def _words(read: Read, here: View) -> str:
    now = here.now(read.item)
    if now.startswith(PENDING):
        return f"reads `{read.name}`, which `{now.removeprefix(PENDING)}` will write anew"
    known = kind_of(read.kind)
    return known.words(read.name, read.value, now, here) if known else "it read something that is not told of any more"


def _is_own(read: Read, last: Last, here: View) -> bool:
    """Whether what a chunk would find now is what its last run has left there."""
    held = last.files.get(read.name)
    return held is not None and isinstance(kind_of(read.kind), FileLook) and content(here.full(read.name)) == held


def _own_words(read: Read) -> str:
    return f"it changes {read.name} itself, so it runs whenever the page is pressed anew"
