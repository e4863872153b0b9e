"""What a pressing went by, and what it wrote: if all of it is as it was, there is nothing to do.

Checked before any parser is imported, so it imports next to nothing itself.
"""

from __future__ import annotations

import os
import sys
from pathlib import Path

from wornpage.plan.reads import kind_of
from wornpage.session.environment import session_variable
from wornpage.store.files import content
from wornpage.store.hashes import is_plain, use_plain
from wornpage.store.place import is_there, own_name, store_of, write_whole
from wornpage.store.signing import opened, sealed
from wornpage.tree.files import as_json

TYPE_CHECKING = False
if TYPE_CHECKING:
    from typing import Any


class Manifest:
    """A pressing that is still right. A plain class, since the libraries for others take as long as all the rest here."""

    __slots__ = ("chunks", "headline", "outputs", "warnings")

    def __init__(
        self,
        outputs: list[tuple[str, str]],
        chunks: list[tuple[str, float]],
        warnings: list[str],
        headline: dict[str, str],
    ) -> None:
        self.outputs = tuple(outputs)
        """Kind and path."""
        self.chunks = tuple(chunks)
        """Label and seconds of its last run."""
        self.warnings = tuple(warnings)
        self.headline = headline
        """Words for the index of editions."""


def _path(page: Path, edition: str = "", kind: str = "manifests") -> Path:
    """Where something of a page is kept, by the page's own path in its project."""
    name = own_name(page)
    return store_of(page) / kind / (f"{name}/{edition}.json" if edition else f"{name}.json")


def colophon_file(page: Path, edition: str = "") -> Path:
    """Where the record of a page's last pressing lies."""
    return _path(page, edition, "colophons")


def manifest_file(page: Path, edition: str = "") -> Path:
    """Where what a pressing went by lies."""
    return _path(page, edition)


def keep_colophon(page: Path, text: str, edition: str = "") -> None:
    """Keep the record of a pressing; one that is the same is not written again."""
    _put(colophon_file(page, edition), as_json(text))


def _put(path: Path, data: bytes) -> None:
    try:
        if path.read_bytes() == data:
            return
    except OSError:
        pass
    write_whole(path, data)


def _get(page: Path, edition: str) -> dict[str, Any] | None:
    """The manifest, if it is whole and this user's."""
    try:
        found: dict[str, object] = opened(_path(page, edition).read_bytes(), f"{own_name(page)}/{edition}")
    except (OSError, ValueError):
        return None
    return found


def remember(
    page: Path,
    text: str,
    outputs: list[tuple[str, Path]],
    reads: list[tuple[str, str, str]],
    chunks: list[tuple[str, float]],
    day: str,
    code: str,
    warnings: list[str],
    given: list[str],
    edition: str = "",
    headline: dict[str, str] | None = None,
    threads: int | None = None,
) -> None:
    """Write down a pressing. `day` is the date if the page shows it, else empty; `code` the version of the program.

    `text` is the content of the page when it was read; `headline` holds words for the index of editions; `threads` is
    what the page lets numerical libraries use.
    """
    folder = page.resolve().parent
    data: dict[str, Any] = {
        "code": code,
        "python": sys.version,
        "page": text,
        "day": day,
        "reads": sorted(set(reads)),
        "outputs": [[kind, str(path), content(str(path.resolve()))] for kind, path in outputs],
        "chunks": chunks,
        "warnings": warnings,
        "given": given,
        "headline": headline or {},
        "threads": threads,
        "folder": str(folder),
        "plain": is_plain(),
    }
    before = _get(page, edition)
    if before is not None and (others := _others(before, data)):
        data["outputs"] += others
        data["reads"] = sorted({*data["reads"], *map(tuple, before["reads"])})
        data["warnings"] = [*warnings, *(one for one in before["warnings"] if one not in warnings)]
    if is_there(store_of(page)):
        _put(_path(page, edition), sealed(data, f"{own_name(page)}/{edition}"))


_HANGS_ON = ("code", "python", "page", "day", "given", "threads", "folder", "plain")


def _others(before: dict[str, Any], now: dict[str, Any]) -> list[list[str]]:
    """Outputs of other kinds that an earlier pressing wrote by the very same: they are still right."""
    if any(before.get(name) != now[name] for name in _HANGS_ON):
        return []
    if not _is_as_it_was(before["reads"], _Outside(before["folder"], before.get("threads"))):
        return []
    made = {kind for kind, _, _ in now["outputs"]}
    return [[kind, path, held] for kind, path, held in before["outputs"] if kind not in made and content(path) == held]


def still_right(
    page: Path,
    kinds: list[str],
    out: Path | None,
    day: str,
    code: str,
    edition: str = "",
    given: list[str] | None = None,
) -> Manifest | None:
    """The last pressing of `page`, if it made these outputs and nothing it went by has changed since."""
    data = _get(page, edition)
    if data is None:
        return None
    made: dict[str, list[tuple[str, str]]] = {}
    for kind, path, held in data["outputs"]:
        made.setdefault(kind, []).append((path, held))
    if data.get("given", []) != (given or []):
        return None  # it was pressed with other values than are given now
    if data["code"] != code or data["python"] != sys.version or (data["day"] and data["day"] != day):
        return None
    if any(kind not in made for kind in kinds):
        return None
    use_plain(bool(data.get("plain")))  # as it was written; where that is right no more, the page's settings say so
    wanted = [str((out or page.parent) / Path(made[kind][0][0]).name) for kind in kinds]
    if any(
        os.path.abspath(made[kind][0][0]) != os.path.abspath(path) for kind, path in zip(kinds, wanted, strict=True)
    ):
        return None
    if content(str(page.resolve())) != data["page"]:
        return None
    if any(content(os.path.realpath(path)) != held for kind in kinds for path, held in made[kind]):
        return None
    if not _is_as_it_was(data["reads"], _Outside(data["folder"], data.get("threads"))):
        return None
    return _read(data, list(zip(kinds, wanted, strict=True)))


def last(page: Path, edition: str = "") -> Manifest | None:
    """The last pressing of `page`, or of one of its editions, whether it is still right or not."""
    data = _get(page, edition)
    if data is None:
        return None
    first = {kind: path for kind, path, _ in reversed(data["outputs"])}  # the main file of each comes first
    return _read(data, [(kind, first[kind]) for kind in dict.fromkeys(kind for kind, _, _ in data["outputs"])])


def is_as_pressed(page: Path, edition: str, day: str, code: str, given: list[str]) -> bool:
    """Whether a pressing to all that the last one wrote would find nothing to do."""
    known = last(page, edition)
    if known is None:
        return False
    folder = Path(known.outputs[0][1]).parent if known.outputs else None
    return still_right(page, [kind for kind, _ in known.outputs], folder, day, code, edition, given) is not None


def known_editions(page: Path) -> list[str]:
    """Names of all editions of `page` that were ever pressed and not forgotten since."""
    folder = store_of(page) / "manifests" / own_name(page)
    return sorted(path.stem for path in folder.glob("*.json")) if folder.is_dir() else []


def outputs_of(page: Path, edition: str) -> list[tuple[str, str]]:
    """Path and content of every file that the last pressing of an edition wrote."""
    data = _get(page, edition)
    return [(os.path.realpath(path), held) for _, path, held in data["outputs"]] if data else []


def files_read(page: Path, edition: str = "") -> list[str]:
    """Whole paths of the files that the last pressing went by."""
    data = _get(page, edition)
    if data is None:
        return []
    names = [name for kind, name, _ in data["reads"] if kind == "file"]
    return [os.path.normpath(os.path.join(data["folder"], name)) for name in names]


def files_of(page: Path, edition: str) -> list[tuple[str, str, str]]:
    """The same with the kind before each."""
    data = _get(page, edition)
    return [(kind, os.path.realpath(path), held) for kind, path, held in data["outputs"]] if data else []


def forget(page: Path, edition: str) -> None:
    """Drop what is kept of the last pressing of an edition."""
    for kind in ("manifests", "colophons"):
        _path(page, edition, kind).unlink(missing_ok=True)


def _read(data: dict[str, Any], outputs: list[tuple[str, str]]) -> Manifest:
    chunks = [(label, seconds) for label, seconds in data["chunks"]]
    return Manifest(outputs, chunks, data["warnings"], data.get("headline", {}))


class _Outside:
    """What can be seen of the world before anything is read (`plan.reads.kind.Here`)."""

    seed, effects = 0, ""
    given: dict[str, object] = {}
    names: dict[str, object] = {}
    ambient: dict[str, str] = {}
    modules: dict[str, str] = {}
    files: dict[str, tuple[str, int]] = {}
    layouts: dict[str, str] = {}
    sight: Any = None

    def __init__(self, folder: str, threads: int | None) -> None:
        self.folder, self._threads = Path(folder), threads

    def full(self, path: str) -> str:
        return os.path.join(self.folder, path)

    def elsewhere(self, language: str, name: str) -> str:
        """No name is outside."""
        return "absent"

    def variable(self, name: str) -> str:
        value = session_variable(name, self._threads)
        return "gone" if value is None else f"={value}"


def _is_as_it_was(reads: list[tuple[str, str, str]], outside: _Outside) -> bool:
    for name, what, held in reads:
        kind = kind_of(name)
        if kind is None or kind.now(what, outside) != held:
            return False
    return True
