"""The story of a pressing: read, settle, plan and run, compose, write."""

from __future__ import annotations

import datetime
import time
from collections.abc import Mapping, Sequence
from pathlib import Path

from msgspec.structs import replace

from wornpage.colophon import colophon_of
from wornpage.compose import compose
from wornpage.lineage.tracing import lineage_of
from wornpage.output.outputs import USUAL, names, output_of
from wornpage.plan.record import ChunkOutcome, Reporter, SilentReporter
from wornpage.plan.walk import run_page
from wornpage.press.abroad import Abroad
from wornpage.press.examining import check_containers, prepare
from wornpage.press.headline import for_editions, for_workbooks
from wornpage.press.orders import Order, Output, Pressing, PressingFailed, Proof, Ran
from wornpage.press.remembering import remember
from wornpage.press.states import OF, states_of, too_large
from wornpage.press.writing import Along, check_outputs, check_target, put, stem_of, target_of, tells_origins, write_all
from wornpage.session.early import Early, early_session
from wornpage.settings.levels import shown_as
from wornpage.showing.keeping import Kept
from wornpage.showing.taking import showing_of
from wornpage.source import Page, read_page
from wornpage.store.blocks import keep_in, save_all
from wornpage.store.place import make_store, store_of, trouble_with
from wornpage.team.sending import send_aside
from wornpage.tree.nodes import Blocks, Composed
from wornpage.tree.problem import PageError, Problem, Severity, has_errors, stop_on_errors
from wornpage.tree.span import Span


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
    given: Mapping[str, object] | None = None,
    workers_at: str = "",
) -> Pressing:
    """Run what must run in `page` and write its outputs beside it, or into `folder`.

    `afresh` reuses nothing of earlier pressings; `store` is the folder of the store, if it is not the usual one;
    `early` a session started before this was called; `stationery` other looks than the page names; `given` values for
    the page's givens, as texts or lists of texts; `workers_at` a cluster for single chunks.
    Raises `PageError` if the page is at fault (nothing has been written then), `UsageError` for an unknown output.
    """
    early = early or (early_session(Path(page), afresh) if all(kind in names() for kind in outputs) else None)
    order = Order(Path(page), str(page), outputs, folder, afresh, store, stationery, given or {}, workers_at=workers_at)
    try:
        return press_order(order, reporter, today, early)
    finally:
        if early is not None:
            early.close()


def proof_of(
    order: Order,
    reporter: Reporter | None = None,
    today: datetime.date | None = None,
    early: Early | None = None,
    source: Page | None = None,
) -> Proof:
    """Run what must run, and compose; `source` is the page if it has been read already. Raises `PageError`."""
    ran = run_of(order, reporter, early, source)
    chunks = tuple(ran.record.chunks.values())
    families = {_family(kind) for kind in order.outputs}
    family = families.pop() if len(families) == 1 else ""
    settings = shown_as(ran.settings, family) if family else ran.settings
    composed, problems = compose(
        ran.source, settings, ran.head, ran.record, today or datetime.date.today(), Abroad(ran.source.path)
    )
    problems += made_containers(composed.blocks, ran.warnings)
    stop_with(problems, ran.warnings, chunks)
    warnings = [*ran.warnings, *(problem for problem in problems if problem not in ran.warnings)]
    return Proof(ran.source, ran.settings, ran.head, ran.record, composed, warnings, ran.headline, ran.begun, family)


def _family(kind: str) -> str:
    """The output whose defaults for chunks another goes by; empty for none but the page's."""
    return str(getattr(output_of(kind), "shown_as", ""))


def composed_for(kind: str, proof: Proof, today: datetime.date) -> tuple[Composed, list[Problem]]:
    """The page as an output has it that shows chunks by defaults of its own, and what is wrong with it there; otherwise as all have it."""
    family = _family(kind)
    settings = shown_as(proof.settings, family) if family else proof.settings
    if family == proof.shown_as or (settings is proof.settings and not proof.shown_as):
        return proof.composed, []
    composed, problems = compose(proof.source, settings, proof.head, proof.record, today, Abroad(proof.source.path))
    return composed, [problem for problem in problems if problem not in proof.warnings]


def run_of(
    order: Order, reporter: Reporter | None = None, early: Early | None = None, source: Page | None = None
) -> Ran:
    """Run what must run of a page; as `proof_of`."""
    begun = time.time_ns()
    source = source or read_page(order.page, order.name)
    place = order.store or store_of(source.path)
    keep_in(None if order.afresh else place)
    settings, head, warnings = prepare(source, order.stationery, order.given, order.volume, order.python)
    if why := trouble_with(place):
        what = f"{place} cannot be read, so nothing of earlier pressings is reused: {why}"
        warnings.append(Problem(Span(order.name, 1), what, severity=Severity.WARNING))
    if order.workers_at:
        settings = replace(settings, page=replace(settings.page, workers_at=order.workers_at))
    headline = for_editions(settings) if order.edition else None
    asked = (*head.nodes(), *(headline.marks if headline else ()), *for_workbooks(settings).marks)
    record = run_page(
        source, settings, asked, reporter or SilentReporter(), order.afresh, order.store, early,
        edition=order.memory, nursery=order.nursery, stopper=order.stopper, together=order.together, is_at_work=order.is_at_work,
    )  # fmt: skip
    warnings += record.warnings
    stop_with(record.problems, warnings, tuple(record.chunks.values()))
    source, settings = record.page or source, record.settings or settings
    return Ran(source, settings, head, record, warnings, headline.shown(record) if headline else {}, begun)


def made_containers(blocks: Blocks, told: Sequence[Problem]) -> list[Problem]:
    """What is wrong with boxes that code has made; those of the source have been told."""
    places = {_place(problem) for problem in told}
    return [one for one in check_containers(blocks) if _place(one) not in places]


def press_order(
    order: Order,
    reporter: Reporter | None = None,
    today: datetime.date | None = None,
    early: Early | None = None,
) -> Pressing:
    """Press what is ordered; as `press`."""
    check_outputs(order.outputs)
    for kind in order.outputs:
        check_target(target_of(order, order.page, kind), order.page, [order.page])
    proof = proof_of(order, reporter, today, early)
    source, settings, record = proof.source, proof.settings, proof.record
    chunks, warnings = tuple(record.chunks.values()), proof.warnings
    composed = {kind: composed_for(kind, proof, today or datetime.date.today()) for kind in order.outputs}
    for _, problems in composed.values():
        stop_with(problems, warnings, chunks)
        warnings += [problem for problem in problems if problem not in warnings]
    controls, others = states_of(order, proof, lambda own: proof_of(own, None, today), reporter or SilentReporter())
    warnings += [problem for other in others for problem in other.warnings if problem not in warnings]
    colophon = colophon_of(source, settings, record)
    place = order.store or store_of(source.path)
    if order.is_remembered and not order.afresh and make_store(place):
        keep_in(place)  # a page without chunks has had none so far
    pages = {kind: page for kind, (page, _) in composed.items()}
    asked = any(tells_origins(kind, settings.page) for kind in pages)
    along = Along(
        stem_of(order, source.path), controls, for_workbooks(settings).results(record),
        lineage_of(source, settings, record) if asked else None,
    )  # fmt: skip
    made, colophon = write_all(pages, colophon, settings.page, source, along)
    told = {
        kind: [*one.problems, *(too_large(controls, one.data, settings) if kind == OF else [])]
        for kind, one in made.items()
    }
    sound = {kind: one for kind, one in made.items() if not has_errors(told[kind])}
    read = [*(file.path for file in source.files), *(source.path.parent / name for name in colophon.data)]
    for kind in sound:
        check_target(target_of(order, source.path, kind), source.path, read)
    written = tuple(put(kind, source, order, one) for kind, one in sound.items())
    faults = [problem for problems in told.values() for problem in problems]
    stop_with(faults, warnings, chunks, written)
    warnings += faults
    ordered = tuple(sorted(warnings, key=lambda problem: problem.span))
    pressing = Pressing(written, chunks, ordered, colophon, proof.composed.plain_title, proof.headline)
    save_all()
    if order.is_remembered:
        remember(proof, pressing, today or datetime.date.today(), order, others)
    if order.is_remembered and not order.kept_as:
        Kept(source.path, order.edition).add(*showing_of(source, proof.composed, record, colophon))
        send_aside(place)
    return pressing


def _place(problem: Problem) -> tuple[str, int, int]:
    return problem.span.file, problem.span.line, problem.span.column


def stop_with(
    problems: Sequence[Problem],
    warnings: Sequence[Problem],
    chunks: Sequence[ChunkOutcome],
    written: Sequence[Output] = (),
) -> None:
    """Raise `PressingFailed` if something is an error; `written` was made all the same."""
    try:
        stop_on_errors(problems)
    except PageError as error:
        raise PressingFailed([*warnings, *error.problems], chunks, written) from None
