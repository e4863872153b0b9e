"""What the chunks of a page really used: packages with versions, of Python and of R, each with who used it."""

from __future__ import annotations

import platform

from msgspec import Struct

from wornpage.plan.record import Record
from wornpage.session.python.environments import current
from wornpage.store.libraries import name_of, version_in
from wornpage.store.packages import needs_of, version_of
from wornpage.store.trace import Read


class Package(Struct, frozen=True):
    """One package."""

    name: str
    version: str
    used_by: tuple[str, ...] = ()
    """Labels of chunks whose code loads it; empty for one that others need."""
    needed_by: tuple[str, ...] = ()
    """Other packages of the page that need it."""


class Needs(Struct, frozen=True):
    """All that a page needs to run."""

    python: str
    program: str
    """The Python that its sessions run in."""
    system: str
    packages: tuple[Package, ...]
    r: tuple[Package, ...] = ()
    """Of R, which is one of them."""
    libraries: dict[str, str] = {}
    """Of the system, as `system.libraries_of` tells them."""
    has_hashes: bool = True
    """Whether its sessions have the packages of fast hashes, which are none of the page's."""


def needs_of_page(record: Record) -> Needs:
    """What the chunks and marks of a page have loaded, as `record` knows it."""
    reads: dict[str, list[Read]] = {label: list(trace.reads) for label, trace in record.traces.items()}
    for outcome in record.marks:
        reads.setdefault("", []).extend(outcome.reads)
    python, r = dict[str, tuple[str, list[str]]](), dict[str, tuple[str, list[str]]]()
    for label, several in reads.items():
        for read in several:
            if read.kind == "package" and (version := version_of(read.name)) != "absent":
                python.setdefault(read.name.partition("@")[0], (version, []))[1].append(label)
            elif read.kind == "library":
                r.setdefault(name_of(read.name), (version_in(read.name).partition(" ")[0], []))[1].append(label)
    needed = {name: [other for other in python if other != name and name in needs_of(other)] for name in python}
    found = current()
    version = platform.python_version() if found.is_own else found.version.partition(" ")[0]
    return Needs(
        version, found.program, f"{platform.system()} {platform.machine()}",
        tuple(_package(name, *told, needed[name]) for name, told in sorted(python.items())),
        tuple(_package(name, *told, []) for name, told in sorted(r.items())), has_hashes=found.has_hashes,
    )  # fmt: skip


def _package(name: str, version: str, labels: list[str], needed_by: list[str]) -> Package:
    used_by = () if needed_by else tuple(dict.fromkeys(filter(None, labels)))
    return Package(name, version, used_by, tuple(needed_by))
