"""Records of the last pressings of a page that showed something else, kept beside the store with the pictures and the small data files of each."""

from __future__ import annotations

import json
import zlib
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import msgspec
from msgspec.structs import replace

from wornpage.showing.parts import Figure, Showing
from wornpage.store.place import files_in, own_name, store_of, write_whole
from wornpage.store.signing import unwrapped, wrapped

MOST = 10
"""Pressings of a page, or of one of its editions, that are kept."""
LARGEST = 4_000_000
"""Bytes of a data file that is kept for comparing; of a larger one only the hash is."""
_LEVEL = 1
"""Of compression: a pressing waits for it."""


class Kept:
    """What is kept of one page, or of one of its editions."""

    def __init__(self, page: Path, edition: str = "") -> None:
        self._root = store_of(page) / "showings"
        self._name = own_name(page, edition)
        self._folder = self._root / own_name(page) / (f"edition {edition}" if edition else "page")
        self._project = page.resolve().parent

    def all(self) -> Iterator[Showing]:
        """The records, the newest first; damaged ones and those of others are none."""
        for path in reversed(self._files()):
            with suppress(OSError, ValueError, zlib.error, msgspec.MsgspecError):
                yield msgspec.json.decode(
                    zlib.decompress(unwrapped(path.read_bytes(), self._place(path))), type=Showing
                )

    def add(self, showing: Showing, pictures: dict[str, bytes]) -> None:
        """Keep a record; where the last one shows the same, that one counts as the newer."""
        files = self._files()
        paths = showing.data
        last = next(self.all(), None)
        showing = sound(showing)
        if last is not None and same(last, showing):
            write_whole(files[-1], self._sealed(showing, files[-1]))
            return
        for address, data in pictures.items():
            self._keep(address, data)
        for name, hashed in paths.items():
            self._keep_file(name, hashed)
        number = int(files[-1].stem) + 1 if files else 1
        path = self._folder / f"{number:06d}.shown"
        write_whole(path, self._sealed(showing, path))
        for old in files[: max(0, len(files) + 1 - MOST)]:
            with suppress(OSError):
                old.unlink()
        if len(files) >= MOST:
            self._sweep()

    def forget(self) -> None:
        """Drop all records, of an edition that is no longer declared."""
        for path in self._files():
            with suppress(OSError):
                path.unlink()
        with suppress(OSError):
            self._folder.rmdir()
        self._sweep()

    def bytes_of(self, address: str) -> bytes | None:
        """A picture, or a data file as it was; None if it is not kept any more."""
        try:
            return zlib.decompress(self._blob(address).read_bytes())
        except (OSError, zlib.error, ValueError):
            return None

    # --- files --------------------------------------------------------------------------------

    def _files(self) -> list[Path]:
        return sorted(files_in(self._folder, ".shown"))

    def _place(self, path: Path) -> str:
        return f"{self._name}/{path.name}"

    def _sealed(self, showing: Showing, path: Path) -> bytes:
        return wrapped(zlib.compress(msgspec.json.encode(showing), _LEVEL), self._place(path))

    def _blob(self, address: str) -> Path:
        if not address.isalnum():
            raise ValueError("no address")
        return self._root / "kept" / address[:2] / address

    def _keep(self, address: str, data: bytes) -> None:
        path = self._blob(address)
        if not path.exists():
            write_whole(path, zlib.compress(data, _LEVEL))

    def _keep_file(self, name: str, hashed: str) -> None:
        """A data file as it is now, under the hash that the pressing had of it."""
        path = self._project / name
        with suppress(OSError, ValueError):
            if not self._blob(hashed).exists() and path.is_file() and path.stat().st_size <= LARGEST:
                self._keep(hashed, path.read_bytes())

    def _sweep(self) -> None:
        """Take away what no record of any page names."""
        named: set[str] = set()
        for path in files_in(self._root, ".shown"):
            with suppress(OSError, ValueError, zlib.error, msgspec.MsgspecError):
                showing = msgspec.json.decode(zlib.decompress(path.read_bytes().partition(b"\n")[2]), type=Showing)
                named |= set(showing.data.values())
                named |= {one.digest for part in showing.parts if isinstance(part, Figure) for one in part.pictures}
        for path in files_in(self._root / "kept"):
            if path.name not in named:
                with suppress(OSError):
                    path.unlink()


def sound(showing: Showing) -> Showing:
    """The record as it can be written: names of files that are no text, and halves of letters, have a sign in their place."""
    try:
        msgspec.json.encode(showing)
    except UnicodeEncodeError:
        text = json.dumps(msgspec.to_builtins(showing), ensure_ascii=False)
        return msgspec.json.decode(text.encode("utf-8", "replace"), type=Showing)
    return showing


def same(one: Showing, other: Showing) -> bool:
    """Whether two pressings show the same of the same, whenever they were made and whatever had to run."""
    return _bare(one) == _bare(other)


def _bare(showing: Showing) -> Showing:
    return replace(showing, when=0.0, page="", chunks=tuple(replace(chunk, run="") for chunk in showing.chunks))
