"""What a pressing was made with and from, and a digest of what each chunk showed.

Never what ran or was reused, nor times: a partial run leaves the same record as a full one.
"""

from __future__ import annotations

import hashlib
import json
import os
import platform
import re
from collections.abc import Iterable
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Any

import msgspec

from wornpage.plan.record import Record, packages_in, reads_of
from wornpage.session import results as r
from wornpage.session.environment import is_fixed
from wornpage.session.languages import known
from wornpage.session.python.environments import current
from wornpage.settings import PageSettings, Settings
from wornpage.settings.givens import as_written
from wornpage.source import Page
from wornpage.store.files import content
from wornpage.store.trace import Read
from wornpage.tree.nodes import Chunk, ValueMark
from wornpage.tree.table import Cell, Column, Value
from wornpage.tree.version import VERSION


@dataclass(frozen=True, slots=True)
class ShownRecord:
    """One thing that a chunk showed."""

    kind: str
    digest: str
    words: str
    """The beginning of it as text, so that a difference can be read."""


@dataclass(frozen=True, slots=True)
class ChunkRecord:
    """What one chunk showed."""

    label: str
    seed: str
    """Empty if no random numbers were drawn."""
    shown: tuple[ShownRecord, ...]


@dataclass(frozen=True, slots=True)
class MarkRecord:
    """What one value mark found."""

    expression: str
    value: str
    """Its type and what it is, as text."""
    seed: str
    """Empty if no random numbers were drawn."""


@dataclass(frozen=True, slots=True)
class Colophon:
    """The whole record."""

    worn: str
    python: str
    system: str
    page: str
    """Hash of the page's text."""
    given: dict[str, Any]
    packages: dict[str, str]
    """Of the libraries that chunks used: versions by name."""
    data: dict[str, str]
    """Hashes of the files that chunks read, by path."""
    texts: dict[str, str]
    """Hashes of the files that the page inserts, by path."""
    settings: dict[str, str]
    """What is set otherwise than built in, of the page and of all its chunks."""
    marks: tuple[MarkRecord, ...]
    chunks: tuple[ChunkRecord, ...]
    weaknesses: tuple[str, ...]
    """What makes it less sure that another run gives the same."""
    fonts: dict[str, str] = field(default_factory=dict)
    """Hashes of the fonts of this machine that letters were taken from, by the files' names."""

    def to_data(self) -> dict[str, object]:
        """As plain data, for JSON."""
        return asdict(self)


def read_record(raw: bytes) -> dict[str, object]:
    """A record that was written as JSON, as plain data. Raises `ValueError`, with the place, for anything else."""
    try:
        data: dict[str, object] = json.loads(raw)
        msgspec.convert(data, Colophon)
    except (msgspec.MsgspecError, ValueError, RecursionError) as error:
        raise ValueError(str(error) or "it is nested too deeply") from None
    return data


def _python_version() -> str:
    """Of the Python that the page's sessions run in."""
    python = current()
    return platform.python_version() if python.is_own else python.version.partition(" ")[0]


_LIBRARY = re.compile(r"^it changed (?:settings in )?(\w+)(?:\.[\w.]+)?(?:, by [\w.]+)?$")
"""What a chunk did to a library: it is told by the library alone, since which change is noticed first hangs on what ran before."""


def colophon_of(page: Page, settings: Settings, record: Record) -> Colophon:
    """The record of a pressing."""
    reads = reads_of(record)
    written = {path for trace in record.traces.values() for path in trace.files}
    return Colophon(
        worn=VERSION,
        python=_python_version(),
        system=f"{platform.system()} {platform.machine()}",
        page=_digest(page.text.encode("utf-8", "surrogatepass")),
        given={name: as_written(value) for name, value in settings.given.items() if value is not None},
        packages=packages_in(reads),
        data=_data(page, reads, written),
        texts={
            str(path): file_digest(path, page.path.parent)
            for path in sorted({*(os.path.relpath(file.path, page.path.parent.resolve()) for file in page.files)})
        },
        settings=_settings(settings),
        marks=tuple(_mark(one.mark, record) for one in record.marks if not _is_of_index(one.mark)),
        chunks=tuple(_chunk(chunk, record) for chunk in page.chunks if chunk.label in record.traces),
        weaknesses=tuple(_weaknesses(page, record)),
    )


def with_fonts(colophon: Colophon, fonts: Iterable[Path]) -> Colophon:
    """A record that names the fonts of this machine that outputs have letters from."""
    found = {path.name: file_digest(path.name, path.parent) for path in fonts}
    weakness = f"letters of a PDF are taken from fonts of this machine ({', '.join(found)})"
    return replace(colophon, fonts=found, weaknesses=(*colophon.weaknesses, weakness))


def _digest(data: bytes) -> str:
    return hashlib.blake2b(data, digest_size=16).hexdigest()


def _chunk(chunk: Chunk, record: Record) -> ChunkRecord:
    result, trace = record.chunks[chunk.label].result, record.traces[chunk.label]
    return ChunkRecord(
        chunk.label, trace.read("seed").get("", ""), tuple(_shown(item) for item in result.shown) if result else ()
    )


def _data(page: Page, reads: Iterable[Read], written: set[str]) -> dict[str, str]:
    """Files that chunks read and did not write themselves, with what they held; modules of the project among them."""
    found: dict[str, str] = {}
    for read in sorted(set(reads)):
        if read.name in written or read.value == "absent":
            continue
        if read.kind == "file":
            found[read.name] = read.value
        elif read.kind == "source":
            found.setdefault(read.name, content(str(page.path.parent.resolve() / read.name)))
    return dict(sorted(found.items()))


def _is_of_index(mark: ValueMark) -> bool:
    """Whether a mark stands in the headline of editions, and so in no page."""
    return mark.span.within.startswith("headline ")


def _mark(mark: ValueMark, record: Record) -> MarkRecord:
    answer = record.answers[mark.span]
    reads = next(outcome.reads for outcome in record.marks if outcome.mark is mark)
    seed = next((read.value for read in reads if read.kind == "seed"), "")
    form = f" as {mark.form}" if mark.form else ""
    language = f"{mark.language}: " if mark.language else ""
    return MarkRecord(language + mark.expression + form, f"{answer.type} {answer.value}", seed)


def file_digest(name: str, folder: Path) -> str:
    """A hash of a file that the page is made of; empty where it cannot be read."""
    try:
        return _digest((folder / name).read_bytes())
    except OSError:
        return ""


_NOT_SETTINGS = {
    "title",
    "subtitle",
    "running_title",
    "abstract",
    "given",
    "editions",
    "store",
    "store_limit",
    "check",
    "chunks",
}
"""Of the front matter: words, which are in the page's text, and what does not change what is made."""


def _settings(settings: Settings) -> dict[str, str]:
    """Settings that are not as they are built in, by name, as text."""
    found: dict[str, str] = {}
    now, built_in = (msgspec.to_builtins(page, enc_hook=str) for page in (settings.page, PageSettings()))
    for name in now:
        if name not in _NOT_SETTINGS:
            found |= _differing(name.replace("_", "-"), now[name], built_in.get(name))
    for label, chunk in settings.chunks.items():
        options, usual = (msgspec.to_builtins(one, enc_hook=str) for one in (chunk.options, type(chunk.options)()))
        found |= {f"{label}: {key}": str(options[key]) for key in options if options[key] != usual.get(key)}
    return dict(sorted(found.items()))


def _differing(name: str, now: object, built_in: object) -> dict[str, str]:
    if isinstance(now, dict) and isinstance(built_in, dict):
        return {k: v for key in now for k, v in _differing(f"{name}: {key}", now[key], built_in.get(key)).items()}
    return {} if now == built_in else {name: str(now)}


def _shown(item: r.Shown) -> ShownRecord:
    match item:
        case r.ShownFigure(data=data, format=kind, alt=alt, live=live):
            whole = data if live is None else b"".join((data, live.html, *live.scripts, *live.frames))
            return ShownRecord(f"{kind} figure", _digest(whole), alt[:200])
        case r.ShownTable(table=table):
            words = "; ".join(f"{_head(c)}: {', '.join(_cell(cell) for cell in c.cells[:6])}" for c in table.columns)
            return ShownRecord("table", _digest(repr(table).encode("utf-8", "surrogatepass")), words[:600])
        case r.ShownProse(told=told) | r.ShownHeading(told=told):
            data = repr(item).encode("utf-8", "surrogatepass")
            return ShownRecord("prose" if isinstance(item, r.ShownProse) else "heading", _digest(data), told.text[:600])
        case r.ShownHtml(html=html):
            return ShownRecord("html", _digest(html.encode("utf-8", "surrogatepass")), html[:200])
        case r.Printed(text=text, role=role):
            return ShownRecord(role, _digest(text.encode("utf-8", "surrogatepass")), text[:600])
        case r.ShownItems(items=items):
            words = ", ".join(item.name for item in items)
            return ShownRecord("items", _digest(words.encode("utf-8", "surrogatepass")), words[:600])
        case r.ShownCell(place=place, value=value):
            words = f"{place}: {value}"
            return ShownRecord("cell", _digest(words.encode("utf-8", "surrogatepass")), words[:600])
        case r.ShownText(text=text) | r.ShownFormula(text=text):
            return ShownRecord("value", _digest(text.encode("utf-8", "surrogatepass")), text[:600])


def _head(column: Column) -> str:
    return "/".join(head if isinstance(head, str) else head.text or head.word for head in column.heads)


def _cell(cell: Cell) -> str:
    return str(cell.content if isinstance(cell, Value) else cell)


def _weaknesses(page: Page, record: Record) -> list[str]:
    found = []
    for chunk in page.chunks:
        trace = record.traces.get(chunk.label)
        if trace is None:
            continue
        if trace.network:
            found.append(f"`{chunk.label}` reached for the network")
        if clock := known(chunk.language).code.clock(chunk.code):
            found.append(f"`{chunk.label}` reads the clock ({clock})")
        if trace.effects:
            done = _LIBRARY.sub(r"it changed \1", trace.effects)
            found.append(f"`{chunk.label}` changes more than its names: {done}")
        outside = [name for name, value in trace.read("file").items() if name.startswith("/") and value != "absent"]
        found += [f"`{chunk.label}` reads {name}, a path of this machine" for name in outside]
    for outcome in record.marks:
        said = f"the value mark `{outcome.mark.expression[:60]}`"
        if clock := known(outcome.language).code.clock(outcome.mark.expression):
            found.append(f"{said} reads the clock ({clock})")
        variables = sorted({r.name for r in outcome.reads if r.kind == "environment" and not is_fixed(r.name)})
        if (variables and "environ" in outcome.mark.expression) or "getenv" in outcome.mark.expression:
            found.append(f"{said} reads the environment ({', '.join(variables)})")
    return found
