"""One file with a page and all it is made of, that repeats byte for byte; and what is in such a file."""

from __future__ import annotations

import io
import json
import zipfile
import zlib
from collections.abc import Sequence
from pathlib import Path, PurePosixPath
from typing import Any

from msgspec.structs import replace

from wornpage.handover.crate import NAME, crate_of
from wornpage.handover.gathering import Gathered, is_text
from wornpage.handover.locks import Release, as_pylock
from wornpage.handover.needs import Needs
from wornpage.handover.system import libraries_of
from wornpage.tree.files import as_json
from wornpage.tree.problem import UsageError

_MOMENT = (1980, 1, 1, 0, 0, 0)
_MOST = 4_000_000_000
"""Bytes that a pack may unfold to."""
LOCK = "pylock.toml"


def packed(
    pages: Sequence[Gathered], asked: frozenset[str], releases: dict[str, Release], licence: str, day: str
) -> tuple[bytes, list[str]]:
    """The pack, and the names of the files in it. What is doubted goes along if its name is among those `asked` for.

    Raises `UsageError` for a file that cannot be read.
    """
    files: dict[str, tuple[str, bytes]] = {}
    for page in pages:
        for item in page.items:
            if (item.doubt and item.name not in asked) or item.name.startswith("..") or not is_text(item.name):
                continue
            try:
                files[item.name] = (item.role, item.read())
            except OSError as error:
                raise UsageError(f"{item.name} cannot be read: {error.strerror}.") from None
    files.setdefault(LOCK, ("lock", as_pylock(_all(pages), releases).encode()))
    files = dict(sorted(files.items()))
    told = json.dumps(crate_of(pages, files, licence, day), ensure_ascii=False, indent=2) + "\n"
    whole = {NAME: as_json(told), **{name: data for name, (_, data) in files.items()}}
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as archive:
        for name, data in whole.items():
            entry = zipfile.ZipInfo(name, _MOMENT)
            entry.compress_type, entry.external_attr = zipfile.ZIP_DEFLATED, 0o644 << 16
            archive.writestr(entry, data)
    return made.getvalue(), list(whole)


def _all(pages: Sequence[Gathered]) -> Needs:
    """What all pages need together; of two versions of one package that of the last."""
    found = {one.name: one for page in pages for one in page.needs.packages}
    r = {one.name: one for page in pages for one in page.needs.r}
    whole = replace(
        pages[-1].needs,
        packages=tuple(found[name] for name in sorted(found)),
        r=tuple(r[name] for name in sorted(r)),
    )
    return replace(whole, libraries=libraries_of(whole))


def unpack(pack: Path, folder: Path) -> list[str]:
    """Put a pack into a folder; the pages in it. Raises `UsageError` for what is none, or wants to write elsewhere."""
    try:
        with zipfile.ZipFile(pack) as archive:
            entries = archive.infolist()
            if sum(entry.file_size for entry in entries) > _MOST:
                raise UsageError(f"{pack} unfolds to more than {_MOST / 1e9:.0f} GB.")
            for entry in entries:
                path = PurePosixPath(entry.filename)
                if path.is_absolute() or ".." in path.parts or "\\" in entry.filename or ":" in entry.filename:
                    raise UsageError(f"{pack} wants to write outside of its folder: {entry.filename!r}.")
                target = folder / path
                if entry.is_dir():
                    continue
                target.parent.mkdir(parents=True, exist_ok=True)
                target.write_bytes(archive.read(entry))
        told: dict[str, Any] = json.loads((folder / NAME).read_bytes())
        root = next(one for one in told["@graph"] if one["@id"] == "./")
        pages = [str(one["@id"]) for one in root["mainEntity"]]
    except (
        zipfile.BadZipFile,
        zlib.error,
        OSError,
        EOFError,
        ValueError,
        KeyError,
        TypeError,
        StopIteration,
        RuntimeError,
    ) as error:
        raise UsageError(f"{pack} is no pack of `worn pack`: {error or type(error).__name__}.") from None
    missing = [page for page in pages if not (folder / page).resolve().is_relative_to(folder.resolve()) or not (folder / page).is_file()]  # fmt: skip
    if missing or not pages:
        raise UsageError(f"{pack} has no page {', '.join(missing)}.".replace(" .", "."))
    return pages
