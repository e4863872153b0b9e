"""What a pressing went by, kept so that the next one can tell at once that there is nothing to do."""

from __future__ import annotations

import datetime
import json
import os
from collections.abc import Mapping, Sequence
from pathlib import Path

from wornpage.output.outputs import inputs_of
from wornpage.output.stationery import find_stationery
from wornpage.plan import manifest
from wornpage.plan.reads import kind_of
from wornpage.plan.record import reads_of
from wornpage.press.examining import folders_beside
from wornpage.press.orders import Order, Pressing, Proof
from wornpage.session.python.environments import USUAL, current
from wornpage.source import Page
from wornpage.store import care
from wornpage.store.files import as_it_was_read, content, listing, times
from wornpage.store.place import make_store, store_of
from wornpage.store.programs import identity
from wornpage.tree.project import project_files_looked_for
from wornpage.tree.version import VERSION


def remember(proof: Proof, pressing: Pressing, day: datetime.date, order: Order, others: Sequence[Proof] = ()) -> None:
    """Keep the record of a pressing, and what it went by unless something in it runs always; `others` are its states with other values."""
    source, settings = proof.source, proof.settings
    store = store_of(source.path)
    if not make_store(store):
        return
    care.tidy(store)
    care.keep_bounded(store, settings.page.store_limit)
    text = json.dumps(pressing.colophon.to_data(), ensure_ascii=False, indent=2)
    manifest.keep_colophon(source.path, text, order.memory)
    if any(chunk.options.rerun == "always" for chunk in settings.chunks.values()):
        return
    if any(trace.fleeting for one in (proof, *others) for trace in one.record.traces.values()):
        return  # nobody can know that there is nothing to do
    manifest.remember(
        source.path,
        as_it_was_read(str(source.path.resolve()), proof.begun),
        outputs=[(one.kind, path) for one in pressing.outputs for path in (one.path, *one.beside)],
        reads=[read for one in (proof, *others) for read in _reads(one, order.memory)]
        + _made_from(pressing, proof.begun),
        chunks=[(chunk.label, chunk.seconds) for chunk in pressing.chunks],
        day=str(day) if settings.page.date == "when-pressed" else "",
        code=VERSION,
        warnings=list(dict.fromkeys(map(str, pressing.warnings))),
        given=as_chosen(order.given),
        edition=order.memory,
        headline=pressing.headline,
        threads=settings.page.threads,
    )


def _reads(proof: Proof, edition: str) -> list[tuple[str, str, str]]:
    """All that the page went by outside of itself: kind, name and value. What a chunk wrote counts as it left it."""
    record = proof.record
    written = {path: held for trace in record.traces.values() for path, held in trace.files.items()}
    reads = [
        (read.kind, read.name, read.value)
        for read in reads_of(record)
        if (kind := kind_of(read.kind))
        and kind.outside
        and not (read.kind in {"file", "entry", "source"} and read.name in written)
    ]
    reads += [("file", path, held) for path, held in written.items()]
    reads += _of_environment(proof)
    shown = [path for path in proof.composed.files if _in_project(path, proof.source) not in written]
    folder = find_stationery(proof.settings.page.stationery, proof.source.path).folder
    if folder is not None:  # a file that is put into it may count
        reads.append(("listing", str(folder), listing(str(folder))))
    return reads + [("file", path, as_it_was_read(path, proof.begun)) for path in (*shown, *_named(proof, edition))]


def _of_environment(proof: Proof) -> list[tuple[str, str, str]]:
    """Which Python the page has, and whether there is one beside it."""
    beside = [str(folder / USUAL / "pyvenv.cfg") for folder in folders_beside(proof.source.path)]
    found = [("file", path, content(path)) for path in beside]
    python = current()
    return found if python.is_own else [*found, ("program", python.program, identity(python.program))]


def _made_from(pressing: Pressing, begun: int) -> list[tuple[str, str, str]]:
    """What outputs were made from beside that: files count by what they hold, whole folders of them by when it was written."""
    reads = []
    for path in {path.absolute() for one in pressing.outputs for path in one.read}:
        reads.append(("file", str(path), as_it_was_read(str(path), begun)))
        for inner in (path, *path.rglob("*")) if path.is_dir() else ():
            kind, look = ("listing", listing) if inner.is_dir() else ("times", times)
            reads.append((kind, str(inner), look(str(inner))))
    return reads


def _named(proof: Proof, edition: str) -> list[str]:
    """Files that the page and its settings name, and those that would count if they came.

    What an edition is given is known without the table that its values come from.
    """
    source, settings = proof.source, proof.settings
    folder = source.path.parent.resolve()
    return [
        *(str(folder / one.file) for one in inputs_of(settings.page)),
        *(one.file for one in settings.declared.values() if one.file and not edition),
        *(str(file.path) for file in source.files),
        *map(str, find_stationery(settings.page.stationery, source.path).files),
        *map(str, project_files_looked_for(source.path)),
    ]


def as_chosen(given: Mapping[str, object]) -> list[str]:
    """Given values as a manifest holds them."""
    return sorted(f"{name}={value}" for name, value in given.items())


def _in_project(path: str, source: Page) -> str:
    """A path as chunks tell it: relative to the page's folder where it lies below it."""
    folder = source.path.parent.resolve()
    return os.path.relpath(path, folder) if Path(path).is_relative_to(folder) else path
