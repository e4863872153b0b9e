"""The story of a pressing: read, settle, plan and run, compose, write."""

from __future__ import annotations

import datetime
import json
import os
import time
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from wornpage.colophon import Colophon, colophon_blocks, colophon_of
from wornpage.compose import Head, compose, read_head
from wornpage.compose.language import language_of
from wornpage.compose.values import FormFault, write_value
from wornpage.output.atomic import IsSource, spare, write_file
from wornpage.output.kind import Job, Written
from wornpage.output.outputs import USUAL, inputs_of, names, options_in, output_of
from wornpage.output.stationery import StationeryFault, find_stationery
from wornpage.plan import manifest
from wornpage.plan.languages import check_languages
from wornpage.plan.nursery import Nursery
from wornpage.plan.reads import kind_of
from wornpage.plan.record import ChunkOutcome, Record, Reporter, SilentReporter, reads_of
from wornpage.plan.stopping import Stopper
from wornpage.plan.walk import run_page
from wornpage.session.early import Early, early_session
from wornpage.settings import PageSettings, Settings, settle
from wornpage.settings.givens import as_written
from wornpage.source import Page, all_chunks, read_page
from wornpage.store import care
from wornpage.store.blocks import BlockCache, keep_in, save_all
from wornpage.store.files import as_it_was_read
from wornpage.store.place import is_there, make_store, store_of, trouble_with
from wornpage.tree.brackets import split_form
from wornpage.tree.files import file_text
from wornpage.tree.nodes import Composed, ValueMark
from wornpage.tree.problem import PageError, Problem, Severity, UsageError, near_miss, stop_on_errors
from wornpage.tree.project import project_files_looked_for
from wornpage.tree.span import Span
from wornpage.tree.version import VERSION


@dataclass(frozen=True, slots=True)
class Output:
    """One file that was asked for."""

    kind: str
    path: Path
    written: bool
    """False if the file held the very same bytes already."""
    beside: tuple[Path, ...] = ()
    """Further files that belong to it."""


@dataclass(frozen=True, slots=True)
class Pressing:
    """What a pressing came to."""

    outputs: tuple[Output, ...]
    chunks: tuple[ChunkOutcome, ...]
    warnings: tuple[Problem, ...]
    colophon: Colophon
    title: str = ""
    headline: dict[str, str] = field(default_factory=dict)
    """What an index shows of it, by the words for it."""


class PressingFailed(PageError):
    """A page at fault, with what became of its chunks until then."""

    def __init__(self, problems: Sequence[Problem], chunks: Sequence[ChunkOutcome] = ()) -> None:
        super().__init__(problems)
        self.chunks = tuple(chunks)


@dataclass(frozen=True, slots=True)
class Order:
    """What is to be pressed, and how."""

    page: Path
    name: str
    """What the page is called in messages."""
    outputs: Sequence[str] = (USUAL,)
    folder: Path | None = None
    """Where the outputs go; beside the page otherwise."""
    afresh: bool = False
    """Reuse nothing of earlier pressings."""
    store: Path | None = None
    """The folder of the store, if it is not the usual one."""
    stationery: str | None = None
    """Other looks than the page names."""
    given: Mapping[str, Any] = field(default_factory=dict)
    """Values for the page's givens, as texts or lists of texts."""
    edition: str = ""
    """The edition's name, which its outputs have; empty for the page itself."""
    nursery: Nursery | None = None
    """Where sessions are had that know already what all editions share."""
    stopper: Stopper | None = None
    """Whoever may want to end it."""

    @property
    def is_remembered(self) -> bool:
        """Whether the next pressing may see at once that there is nothing to do."""
        return self.store is None and self.stationery is None


def press(
    page: str | Path,
    outputs: Sequence[str] = (USUAL,),
    folder: Path | None = None,
    reporter: Reporter | None = None,
    today: datetime.date | None = None,
    afresh: bool = False,
    store: Path | None = None,
    early: Early | None = None,
    stationery: str | None = None,
    given: Mapping[str, Any] | None = None,
) -> Pressing:
    """Run what must run in `page` and write its outputs beside it, or into `folder`.

    `afresh` reuses nothing of earlier pressings; `store` is the folder of the store, if it is not the usual one;
    `early` a session started before this was called; `stationery` other looks than the page names; `given` values for
    the page's givens, as texts or lists of texts.
    Raises `PageError` if the page is at fault (nothing has been written then), `UsageError` for an unknown output.
    """
    early = early or (early_session(Path(page), afresh) if all(kind in names() for kind in outputs) else None)
    order = Order(Path(page), str(page), outputs, folder, afresh, store, stationery, given or {})
    try:
        return press_order(order, reporter, today, early)
    finally:
        if early is not None:
            early.close()


@dataclass(frozen=True, slots=True)
class Proof:
    """A page with all its answers in place, before it is written."""

    source: Page
    settings: Settings
    record: Record
    composed: Composed
    warnings: list[Problem]
    headline: dict[str, str]
    begun: int
    """When the page was begun to be read, in nanoseconds since the epoch."""


def proof_of(
    order: Order,
    reporter: Reporter | None = None,
    today: datetime.date | None = None,
    early: Early | None = None,
    source: Page | None = None,
) -> Proof:
    """Run what must run, and compose; `source` is the page if it has been read already. Raises `PageError`."""
    begun = time.time_ns()
    source = source or read_page(order.page, order.name)
    place = order.store or store_of(source.path)
    keep_in(place / "cache" if is_there(place) and not order.afresh else None)
    settings, head, warnings = prepare(source, order.stationery, order.given)
    if why := trouble_with(place):
        what = f"{place} cannot be read, so nothing of earlier pressings is reused: {why}"
        warnings.append(Problem(Span(order.name, 1), what, severity=Severity.WARNING))
    headline = Headline(settings) if order.edition else None
    asked = (*head.nodes(), *(headline.marks if headline else ()))
    record = run_page(
        source, settings, asked, reporter or SilentReporter(), order.afresh, order.store, early,
        edition=order.edition, nursery=order.nursery, stopper=order.stopper,
    )  # fmt: skip
    chunks = tuple(record.chunks.values())
    warnings += record.warnings
    _stop(record.problems, warnings, chunks)
    source = record.page or source
    composed, problems = compose(source, settings, head, record, today or datetime.date.today())
    _stop(problems, warnings, chunks)
    warnings += [problem for problem in problems if problem not in warnings]
    return Proof(source, settings, record, composed, warnings, headline.shown(record) if headline else {}, begun)


def press_order(
    order: Order,
    reporter: Reporter | None = None,
    today: datetime.date | None = None,
    early: Early | None = None,
) -> Pressing:
    """Press what is ordered; as `press`."""
    _check_outputs(order.outputs)
    for kind in order.outputs:
        _check_target(_target(order, order.page, kind), order.page, [order.page])
    proof = proof_of(order, reporter, today, early)
    source, settings, record, composed = proof.source, proof.settings, proof.record, proof.composed
    chunks, warnings = tuple(record.chunks.values()), proof.warnings
    colophon = colophon_of(source, settings, record)
    made = {kind: _write_as(kind, composed, colophon, settings.page, source) for kind in order.outputs}
    for one in made.values():
        _stop(one.problems, warnings, chunks)
        warnings += one.problems
    read = [*(file.path for file in source.files), *(source.path.parent / name for name in colophon.data)]
    for kind in made:
        _check_target(_target(order, source.path, kind), source.path, read)
    written = tuple(_write(kind, source, order, one) for kind, one in made.items())
    ordered = tuple(sorted(warnings, key=lambda problem: problem.span))
    pressing = Pressing(written, chunks, ordered, colophon, composed.plain_title, proof.headline)
    save_all()
    if order.is_remembered:
        _remember(proof, pressing, today or datetime.date.today(), order)
    return pressing


class Headline:
    """Expressions whose values an index shows for each edition."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.marks: list[ValueMark] = []
        for number, expression in enumerate(settings.page.editions.headline.values()):
            at = settings.place("editions", "headline")
            words, form = split_form(expression)
            self.marks.append(ValueMark(replace(at, within=f"headline {number + 1}"), words, form))

    def shown(self, record: Record) -> dict[str, str]:
        """The value of each, in words."""
        language = language_of(self.settings.page.language)
        found = {}
        for words, mark in zip(self.settings.page.editions.headline, self.marks, strict=True):
            answer = record.answers.get(mark.span)
            try:
                found[words] = write_value(answer, mark.form, None, language) if answer else ""
            except FormFault:
                found[words] = str(answer.value) if answer else ""
        return found


_checked_before = BlockCache("settings")


def prepare(
    source: Page, stationery: str | None = None, given: Mapping[str, Any] | None = None
) -> tuple[Settings, Head, list[Problem]]:
    """Settings and head of a page, with the warnings so far. Raises `PageError` with every fault at once."""
    settings, head, problems = examine(source, stationery, given)
    stop_on_errors(problems)
    return settings, head, problems


def examine(
    source: Page, stationery: str | None = None, given: Mapping[str, Any] | None = None
) -> tuple[Settings, Head, list[Problem]]:
    """Settings and head of a page, and everything that is wrong with them."""
    settings, faults = settle(
        source, _checked_before, {name: as_written(value) for name, value in (given or {}).items()}
    )
    if stationery is not None:
        settings = replace(settings, page=replace(settings.page, stationery=stationery))
    head = read_head(source, settings)
    problems = [
        *source.problems,
        *faults,
        *head.problems,
        *check_languages(all_chunks(source)),
        *_check_stationery(source, settings),
        *_check_files(source, settings),
    ]
    return settings, head, problems


def _check_outputs(outputs: Sequence[str]) -> None:
    for kind in outputs:
        if kind not in names():
            hint = near_miss(kind, names()) or f"There are: {', '.join(names())}."
            raise UsageError(f"there is no output {kind!r}. {hint}")


def _check_files(source: Page, settings: Settings) -> list[Problem]:
    """Files that the settings name must be there."""
    problems = []
    for one in inputs_of(settings.page):
        if not one.is_text:
            continue
        file, name = source.path.parent / one.file, one.file
        try:
            file_text(file)
        except (OSError, UnicodeDecodeError) as error:
            reason = "it is not UTF-8" if isinstance(error, UnicodeDecodeError) else error.strerror
            beside = sorted(other.name for other in file.parent.iterdir()) if file.parent.is_dir() else []
            what = f"{name!r} cannot be read: {reason}."
            problems.append(Problem(settings.place(*one.setting), what, near_miss(file.name, beside)))
    return problems


def _check_stationery(source: Page, settings: Settings) -> list[Problem]:
    try:
        find_stationery(settings.page.stationery, source.path)
    except StationeryFault as fault:
        return [Problem(settings.place("stationery"), fault.what, fault.hint)]
    return []


def _stop(problems: Sequence[Problem], warnings: Sequence[Problem], chunks: Sequence[ChunkOutcome]) -> None:
    try:
        stop_on_errors(problems)
    except PageError as error:
        raise PressingFailed([*warnings, *error.problems], chunks) from None


def _write_as(kind: str, composed: Composed, colophon: Colophon, settings: PageSettings, source: Page) -> Written:
    """One output; with the colophon at its end if the page asks for it there."""
    if getattr(options_in(settings, kind), "colophon", False):
        blocks = colophon_blocks(
            colophon, language_of(settings.language), Span(source.name, source.text.count("\n") + 1)
        )
        composed = replace(composed, blocks=(*composed.blocks, *blocks))
    return output_of(kind).write(composed, Job(settings, source.path.parent, source.name))


def _target(order: Order, page: Path, kind: str) -> Path:
    return (order.folder or page.parent) / f"{order.edition or page.stem}{output_of(kind).suffix}"


def _check_target(target: Path, page: Path, sources: Iterable[Path]) -> None:
    """Raise `UsageError` if an output would write over what it is made from."""
    try:
        spare(target, sources)
    except IsSource as error:
        hint = (
            "Call the page something that ends in `.md`."
            if target.suffix == page.suffix
            else "Choose another folder with --out."
        )
        raise UsageError(f"{target} stays as it is: {error.strerror}. {hint}") from None


def _write(kind: str, source: Page, order: Order, made: Written) -> Output:
    target = _target(order, source.path, kind)
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        beside = tuple(_below(target, name) for name in made.beside)
        for path, data in zip(beside, made.beside.values(), strict=True):
            path.parent.mkdir(parents=True, exist_ok=True)
            write_file(path, data)
        return Output(kind, target, write_file(target, made.data), beside)
    except OSError as error:
        what = f"{target} cannot be written: {error.strerror}."
        raise PageError([Problem(Span(source.name, 1), what)]) from None


def _below(target: Path, name: str) -> Path:
    """Where a further file of an output goes: into a folder that is called after the main one, and nowhere else."""
    folder = target.parent / f"{target.stem}-files"
    path = (folder / name).resolve()
    if not path.is_relative_to(folder.resolve()):
        raise ValueError(f"an output wants to write outside its folder: {name!r}")
    return path


def _remember(proof: Proof, pressing: Pressing, day: datetime.date, order: Order) -> None:
    """Keep what the pressing went by, so that the next one can tell at once that there is nothing to do."""
    source, settings, record, composed = proof.source, proof.settings, proof.record, proof.composed
    store = store_of(source.path)
    if not make_store(store):
        return
    care.tidy(store)
    care.keep_bounded(store, settings.page.store_limit)
    text = json.dumps(pressing.colophon.to_data(), ensure_ascii=False, indent=2)
    manifest.keep_colophon(source.path, text, order.edition)
    if any(chunk.options.rerun == "always" for chunk in settings.chunks.values()):
        return
    found = [read for read in reads_of(record) if (kind := kind_of(read.kind)) and kind.outside]
    written = {path: held for trace in record.traces.values() for path, held in trace.written}
    found = [read for read in found if not (read.kind == "file" and read.name in written)]
    reads = [(read.kind, read.name, read.value) for read in found]
    reads += [("file", path, held) for path, held in written.items()]
    files = [path for path in composed.files if _in_project(path, source) not in written]
    reads += [("file", path, as_it_was_read(path, proof.begun)) for path in files]
    named = [str(source.path.parent.resolve() / one.file) for one in inputs_of(settings.page)]
    named += [one.file for one in settings.declared.values() if one.file]
    named += [str(file.path) for file in source.files]
    looks = find_stationery(settings.page.stationery, source.path).files
    named += [*map(str, looks), *map(str, project_files_looked_for(source.path))]
    reads += [("file", path, as_it_was_read(path, proof.begun)) for path in named]
    shown = str(day) if settings.page.date == "when-pressed" else ""
    outputs = [(one.kind, path) for one in pressing.outputs for path in (one.path, *one.beside)]
    chunks = [(chunk.label, chunk.seconds) for chunk in pressing.chunks]
    manifest.remember(
        source.path,
        as_it_was_read(str(source.path.resolve()), proof.begun),
        outputs,
        reads,
        chunks,
        shown,
        VERSION,
        [str(w) for w in pressing.warnings],
        as_chosen(order.given),
        order.edition,
        pressing.headline,
        settings.page.threads,
    )


def as_chosen(given: Mapping[str, Any]) -> list[str]:
    """Given values as a manifest holds them."""
    return sorted(f"{name}={value}" for name, value in given.items())


def _in_project(path: str, source: Page) -> str:
    """A path as chunks tell it: relative to the page's folder where it lies below it."""
    folder = source.path.parent.resolve()
    return os.path.relpath(path, folder) if Path(path).is_relative_to(folder) else path


__all__ = ["Order", "Output", "Pressing", "PressingFailed", "Record", "prepare", "press", "press_order"]
