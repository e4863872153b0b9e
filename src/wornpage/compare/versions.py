"""What a page is compared with, and what it shows now: pressings that are kept, editions, commits, records in files."""

from __future__ import annotations

import base64
import os
import re
import shutil
import subprocess
import tarfile
import tempfile
import zlib
from collections.abc import Callable, Iterable, Mapping
from io import BytesIO
from pathlib import Path

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from wornpage.colophon import colophon_of
from wornpage.plan import manifest
from wornpage.plan.record import Reporter
from wornpage.press import Order, proof_of
from wornpage.showing.keeping import Kept, same, sound
from wornpage.showing.parts import Figure, Showing
from wornpage.showing.taking import showing_of
from wornpage.store.files import FOLDER
from wornpage.store.trace import Trace
from wornpage.tree.problem import UsageError
from wornpage.tree.project import project_of

_COPIED = 64_000_000
"""Bytes up to which a file is copied."""
_OF_ENVIRONMENTS = "pyvenv.cfg"
"""Tells the folder of an environment of Python, which no page writes to."""
Bytes = Callable[[str], bytes | None]
"""The bytes behind a digest; None where they are not to be had."""


class Version(Struct, frozen=True):
    """What a page shows or showed."""

    showing: Showing
    bytes_of: Bytes
    written: frozenset[str] = frozenset()
    """Files that its code has made, from the page's folder."""


def now_of(
    page: Path, reporter: Reporter | None, given: Mapping[str, object], edition: str = "", store: Path | None = None
) -> Version:
    """What a page shows now; what is stale of it is run, and nothing is written. Raises `PageError`."""
    order = Order(page, str(page), given=given, edition=edition, store=store)
    proof = proof_of(order, reporter)
    colophon = colophon_of(proof.source, proof.settings, proof.record)
    showing, pictures = showing_of(proof.source, proof.composed, proof.record, colophon)
    folder, data = page.resolve().parent, {held: name for name, held in showing.data.items()}

    def bytes_of(address: str) -> bytes | None:
        if address in pictures:
            return pictures[address]
        try:
            return (folder / data[address]).read_bytes() if address in data else None
        except OSError:
            return None

    written = made_by(proof.record.traces.values())
    return Version(
        replace(sound(showing), page=f"{page.name}{f', {edition}' if edition else ''}, now"), bytes_of, written
    )


def made_by(traces: Iterable[Trace]) -> frozenset[str]:
    """Files that chunks, in their order, have made: those that one of them found before any had written them are not."""
    written: set[str] = set()
    found: set[str] = set()
    for trace in traces:
        found |= {read.name for read in trace.reads if read.kind == "file" and read.value != "absent"} - written
        written |= {path for path, held in trace.files.items() if held != FOLDER}
    return frozenset(written - found)


def last_of(page: Path, now: Showing, edition: str = "", back: int = 0) -> Version:
    """The last pressing that showed something else; `back` counts pressings back, the last being 1. Raises `UsageError` for none."""
    kept = Kept(page, edition)
    showings = list(kept.all())
    if back:
        if back > len(showings):
            raise UsageError(f"{page} has {len(showings)} pressings that are kept, and not {back}.")
        found = showings[back - 1]
    else:
        if not showings:
            hint = (
                f"Press it first: `worn press {page} --afresh`." if manifest.last(page, edition) else "Press it first."
            )
            raise UsageError(f"no pressing of {page} is on record yet, so there is nothing to compare it with. {hint}")
        found = next((one for one in showings if not same(one, now)), showings[0])
    return Version(found, kept.bytes_of)


# --- records in files -------------------------------------------------------------------------


class _Filed(Struct, frozen=True):
    showing: Showing
    pictures: dict[str, str] = {}


def as_file(version: Version) -> bytes:
    """A record that can be kept anywhere and compared with later, its pictures within."""
    addresses = [one.digest for part in version.showing.parts if isinstance(part, Figure) for one in part.pictures]
    held = {address: version.bytes_of(address) for address in addresses}
    pictures = {name: base64.b64encode(zlib.compress(data, 9)).decode() for name, data in held.items() if data}
    return msgspec.json.format(msgspec.json.encode(_Filed(version.showing, pictures)), indent=1) + b"\n"


def from_file(path: Path) -> Version:
    """The record in a file. Raises `UsageError` for what is none."""
    try:
        filed = msgspec.json.decode(path.read_bytes(), type=_Filed)
    except OSError as error:
        raise UsageError(f"{path} cannot be read: {error.strerror}.") from None
    except (msgspec.MsgspecError, ValueError, RecursionError) as error:
        raise UsageError(
            f"{path} is no record of what a page showed: {error}. `worn compare --write` makes one."
        ) from None

    def bytes_of(address: str) -> bytes | None:
        try:
            return zlib.decompress(base64.b64decode(filed.pictures.get(address, ""), validate=True)) or None
        except (ValueError, zlib.error):
            return None

    return Version(replace(filed.showing, page=filed.showing.page or path.name), bytes_of)


# --- commits ----------------------------------------------------------------------------------


def commit_of(
    page: Path, name: str, reporter: Reporter | None, given: Mapping[str, object], written: frozenset[str]
) -> Version | None:
    """What the page showed as it stood in a commit of its repository; None if there is no such commit.

    It is run from nothing in a folder of its own. Data that the repository does not have is taken as it is now, but for
    what the page has itself `written`.
    """
    root = _git(page.resolve().parent, "rev-parse", "--show-toplevel")
    if root is None or name.startswith("-"):
        return None
    top = Path(root.decode("utf-8", "surrogateescape").rstrip("\n"))
    commit = _git(top, "rev-parse", "--verify", "--quiet", f"{name}^{{commit}}")
    if commit is None:
        return None
    project = project_of(page)
    inside = os.path.relpath(project, top)
    archive = _git(top, "archive", "--format=tar", commit.decode().strip(), "--", inside)
    relative = page.resolve().relative_to(top)
    if archive is None:
        return None
    with tempfile.TemporaryDirectory(prefix="worn-") as place:
        with tarfile.open(fileobj=BytesIO(archive)) as tar:
            tar.extractall(place, filter="tar")  # links that lead elsewhere are the repository's own
        there = Path(place) / relative
        if not there.exists():
            raise UsageError(f"{page} is not in the commit {name}.")
        own = {Path(os.path.normpath(page.resolve().parent / one)) for one in written}
        _beside(project.resolve(), Path(place) / inside, own)
        version = now_of(there, reporter, given, store=Path(place) / ".worn" / "store")
        held = {address: version.bytes_of(address) for address in _addresses(version.showing)}
    short = re.sub(r"^[0-9a-f]{40}$", lambda found: found[0][:10], name)
    return Version(replace(version.showing, page=f"{page.name}, commit {short}"), held.get)


def _addresses(showing: Showing) -> list[str]:
    pictures = [one.digest for part in showing.parts if isinstance(part, Figure) for one in part.pictures]
    return [*pictures, *showing.data.values()]


def _beside(project: Path, copy: Path, but: set[Path]) -> None:
    """What lies in the project and no commit has: small files as copies, since code may write over them; others as links."""
    names = _git(project, "ls-files", "--others", "--directory", "-z") or b""
    for name in filter(None, names.decode("utf-8", "surrogateescape").split("\0")):
        if not {".git", ".worn", "__pycache__"}.intersection(Path(name).parts):
            _taken_along(project / name, copy / name, but)


def _taken_along(path: Path, copy: Path, but: set[Path]) -> None:
    """A file or a folder at another place; what is there stays."""
    if path in but or copy.is_symlink():
        return
    can_be_read = os.access(path, os.R_OK)
    if can_be_read and path.is_dir() and not path.is_symlink() and not (path / _OF_ENVIRONMENTS).exists():
        copy.mkdir(parents=True, exist_ok=True)
        for inner in path.iterdir():
            _taken_along(inner, copy / inner.name, but)
    elif not copy.exists():
        copy.parent.mkdir(parents=True, exist_ok=True)
        if can_be_read and path.is_file() and path.stat().st_size <= _COPIED:
            shutil.copy2(path, copy)
        else:
            copy.symlink_to(path)


def _git(folder: Path, *arguments: str) -> bytes | None:
    """What git says; None where it fails, or is not there."""
    try:
        done = subprocess.run(["git", "-C", str(folder), *arguments], capture_output=True, check=False)
    except OSError:
        return None
    return done.stdout if done.returncode == 0 else None
