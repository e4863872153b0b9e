"""What a page is made of and what was made of it: every file, why it belongs, and what must not go along unasked."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from fnmatch import fnmatch
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from wornpage.colophon import Colophon, colophon_of
from wornpage.handover.needs import Needs, needs_of_page
from wornpage.output.outputs import inputs_of
from wornpage.output.stationery import find_stationery
from wornpage.press import Pressing, Proof
from wornpage.tree.files import as_json
from wornpage.tree.nodes import Person
from wornpage.tree.project import project_file_of, project_of
from wornpage.tree.walk import words_of

SECRET = ("*.pem", "*.key", "*.p12", "*.pfx", ".env", "*.env", ".env.*", ".netrc", ".pgpass", "id_rsa*", "id_ed25519*", "credentials*", "*secret*", "*password*")  # fmt: skip
"""Names of files that hold what opens doors."""


class Item(Struct, frozen=True):
    """One file."""

    name: str
    """Its path in the pack, below the project's folder."""
    path: Path | None
    role: str
    """`page`, `insert`, `settings`, `input`, `data`, `module`, `output`, `record` or `lock`."""
    data: bytes = b""
    """What it holds, where it is no file of its own."""
    doubt: str = ""
    """Why it goes along only where that is asked for; empty if it may."""

    def read(self) -> bytes:
        """What it holds. Raises `OSError`."""
        return self.path.read_bytes() if self.path is not None else self.data


class Gathered(Struct, frozen=True):
    """A page with all that belongs to it."""

    page: str
    title: str
    abstract: str
    keywords: tuple[str, ...]
    authors: tuple[Person, ...]
    date: str
    """As an ISO date; empty where the page has none."""
    language: str
    items: tuple[Item, ...]
    missing: tuple[str, ...]
    """What was read and cannot go along: it is gone."""
    needs: Needs
    colophon: Colophon


def gather(proof: Proof, pressing: Pressing, at_most: int) -> Gathered:
    """All that belongs to a page that has been pressed. Data of more than `at_most` bytes are doubted."""
    source, settings = proof.source, proof.settings
    root = project_of(source.path).resolve()
    gathering = _Gathering(root, source.path.resolve().parent, at_most)
    gathering.add(source.path, "page")
    for file in source.files:
        gathering.add(file.path, "insert")
    project = project_file_of(source.path)
    if project is not None:
        gathering.add(project, "settings")
    for one in inputs_of(settings.page):
        gathering.add(source.path.parent / one.file, "input")
    for name in settings.page.bibliography:
        gathering.add(source.path.parent / name, "input")
    if settings.page.citation_style.endswith(".csl"):
        gathering.add(source.path.parent / settings.page.citation_style, "input")
    if settings.page.editions.table:
        gathering.add(source.path.parent / settings.page.editions.table, "data")
    for declared in settings.declared.values():
        if declared.file:
            gathering.add(source.path.parent / declared.file, "data")
    for path in find_stationery(settings.page.stationery, source.path).files:
        gathering.add(path, "input")
    for shown in proof.composed.files:
        gathering.add(Path(shown), "input")
    colophon = colophon_of(source, settings, proof.record)
    modules = {read.name for trace in proof.record.traces.values() for read in trace.reads if read.kind == "source"}
    for name in colophon.data:
        gathering.add(source.path.parent / name, "module" if name in modules else "data")
    for output in pressing.outputs:
        for path in (output.path, *output.beside):
            gathering.add(path, "output")
    page = os.path.relpath(source.path.resolve(), root)
    record = as_json(json.dumps(colophon.to_data(), ensure_ascii=False, indent=2) + "\n")
    gathering.items[f"records/{page}.json"] = Item(f"records/{page}.json", None, "record", record)
    head = proof.composed.head
    return Gathered(
        page, proof.composed.plain_title, " ".join(words_of(head.abstract).split()), tuple(map(words_of, head.keywords)), head.authors,
        str(settings.page.date) if str(settings.page.date)[:4].isdigit() else "", settings.page.language,
        tuple(gathering.items.values()), tuple(gathering.missing), needs_of_page(proof.record), colophon,
    )  # fmt: skip


class _Gathering:
    def __init__(self, root: Path, folder: Path, at_most: int) -> None:
        self.root, self.folder, self.at_most = root, folder, at_most
        self.items: dict[str, Item] = {}
        self.missing: list[str] = []

    def add(self, path: Path, role: str) -> None:
        """A file, or all files of a folder, once."""
        whole = (self.folder / path).resolve()
        if whole.is_dir():
            for inner in _files_in(whole):
                self.add(inner, role)
            return
        name = os.path.relpath(whole, self.root)
        if not whole.is_file():
            self.missing.append(name)
            return
        if name not in self.items:
            item = Item(name, whole, role)
            self.items[name] = replace(item, doubt=self._doubt(item))

    def _doubt(self, item: Item) -> str:
        assert item.path is not None
        if item.name.startswith(".."):
            return "it lies outside of the project"
        if not is_text(item.name):
            return "its name is no text"
        if any(fnmatch(item.path.name.lower(), pattern) for pattern in SECRET):
            return "its name says that it is secret"
        size = item.path.stat().st_size
        if item.role in {"data", "input"} and size > self.at_most:
            return f"it has {size / 1e6:,.1f} MB"
        return ""


def is_text(name: str) -> bool:
    """Whether a file's name can stand in an archive."""
    try:
        name.encode()
    except UnicodeEncodeError:
        return False
    return True


def _files_in(folder: Path) -> Iterator[Path]:
    for place, names, files in os.walk(folder):
        names[:] = sorted(name for name in names if not name.startswith("."))
        yield from (Path(place, name) for name in sorted(files))
