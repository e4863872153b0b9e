"""`worn run`: chunks only, what they show in the terminal."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from wornpage.cli.arguments import EditionName, GivenValues, PageArgument
from wornpage.cli.given import prepared
from wornpage.cli.say import say, say_problems
from wornpage.tree.problem import UsageError, near_miss

if TYPE_CHECKING:
    from wornpage.plan.record import ChunkOutcome, Record
    from wornpage.session.results import Shown
    from wornpage.settings import Settings
    from wornpage.source import Page
    from wornpage.tree.nodes import Chunk
    from wornpage.tree.table import TableData, Told


def run(
    page: PageArgument,
    only: Annotated[str | None, typer.Option("--only", metavar="LABEL", help="Show this chunk alone.")] = None,
    up_to: Annotated[
        str | None, typer.Option("--up-to", metavar="LABEL", help="Run and show chunks down to this one.")
    ] = None,
    given: GivenValues = None,
    edition: EditionName = "",
) -> None:
    """Run a page's chunks without pressing it, and show what they show here.

    What is still right is reused; `--only` runs what the chunk needs, and nothing below it.
    """
    from msgspec.structs import replace

    from wornpage.cli.progress import TerminalReporter
    from wornpage.plan.walk import run_page
    from wornpage.tree.nodes import Insert
    from wornpage.tree.walk import walk

    source, settings = prepared(page, given, edition)
    if any(isinstance(node, Insert) for node in walk(source.blocks)):
        _run_with_inserts(source, settings, only, up_to, page, edition)
        return
    last = _known(only or up_to, source)
    above = source.chunks if last is None else source.chunks[: last + 1]
    chosen = _needed(source, only.removeprefix("#"), edition) if only else above
    record = run_page(
        replace(source, chunks=chosen, blocks=chosen),
        settings,
        (),
        TerminalReporter(),
        edition=edition,
        is_at_work=True,
    )
    if record.problems and len(chosen) < len(above):  # what it needs cannot always be told from its code
        record = run_page(
            replace(source, chunks=above, blocks=above),
            settings,
            (),
            TerminalReporter(),
            edition=edition,
            is_at_work=True,
        )
    _tell(record, only, page)


def _run_with_inserts(
    source: Page, settings: Settings, only: str | None, up_to: str | None, page: Path, edition: str
) -> None:
    """What the page inserts is known only on the way: run from the top down to the chunk that is wanted."""
    from wornpage.cli.progress import TerminalReporter
    from wornpage.plan.walk import run_page

    until = (only or up_to or "").removeprefix("#")
    record = run_page(source, settings, (), TerminalReporter(), until=until, edition=edition, is_at_work=True)
    if until and until not in record.chunks:
        raise UsageError(f"no chunk is labelled {until!r}. {near_miss(until, record.chunks)}")
    _tell(record, only, page)


def _tell(record: Record, only: str | None, page: Path) -> None:
    for outcome in record.chunks.values():
        if only is None or outcome.label == only.removeprefix("#"):
            _show(outcome, page)
    if record.problems:
        say_problems(record.problems)
        raise typer.Exit(1)


def _needed(source: Page, label: str, edition: str) -> tuple[Chunk, ...]:
    from wornpage.plan.need import needed_by
    from wornpage.plan.reasons import Reasons
    from wornpage.store.place import own_name, store_of

    last = Reasons(store_of(source.path) / "last", own_name(source.path, edition)).last
    return tuple(needed_by(label, source.chunks, last))


def _known(label: str | None, source: Page) -> int | None:
    """The place of a chunk in its page; None if none is named. Raises `UsageError`."""
    if label is None:
        return None
    labels = [chunk.label for chunk in source.chunks]
    name = label.removeprefix("#")
    if name not in labels:
        raise UsageError(f"no chunk is labelled {name!r}. {near_miss(name, labels)}")
    return labels.index(name)


def _show(outcome: ChunkOutcome, page: Path) -> None:
    if outcome.result is None or not outcome.result.shown:
        return
    say(f"── {outcome.label} ({outcome.outcome})")
    for number, item in enumerate(outcome.result.shown, 1):
        _show_item(item, outcome.label, number, page)


def _show_item(item: Shown, label: str, number: int, page: Path) -> None:
    from wornpage.output.atomic import write_file
    from wornpage.session import results as r
    from wornpage.tree.project import project_of

    match item:
        case r.Printed(text=text, role="notice"):
            say(text.rstrip("\n"))
        case r.Printed(text=text) | r.ShownText(text=text) | r.ShownHtml(text=text) | r.ShownFormula(text=text):
            typer.echo(text.rstrip("\n"))
        case r.ShownProse(told=told):
            typer.echo(_answered(told))
        case r.ShownHeading(told=told, level=level):
            typer.echo(f"{'#' * level} {_answered(told)}")
        case r.ShownCell(place=place, value=value):
            typer.echo(f"{place} = {value}")
        case r.ShownTable(table=table):
            _print_table(table)
        case r.ShownFigure(data=data, format=kind):
            folder = project_of(page) / ".worn" / "shown"
            folder.mkdir(parents=True, exist_ok=True)
            target = folder / f"{page.stem}-{label}-{number}.{kind}"
            write_file(target, data)
            typer.echo(str(target))


def _answered(told: Told) -> str:
    """Words as a chunk has written them, with the values of their marks."""
    from wornpage.compose.language import language_of
    from wornpage.compose.values import FormFault, write_value
    from wornpage.session.results import Answer
    from wornpage.tree.brackets import split_form, value_marks

    text, made, at, answers = told.text, "", 0, iter(told.answers)
    for start, end, is_escaped in value_marks(text):
        if end < 0:
            break
        words, gap = text[start:end], text[at : start - is_escaped]
        if not is_escaped and (answer := next(answers, None)) is not None:
            form = split_form(words[3:-1])[1]
            with suppress(FormFault):
                words = write_value(Answer(str(answer["type"]), answer["value"]), form, None, language_of("en"))
        made, at = made + gap + words, end
    return made + text[at:]


def _print_table(data: TableData) -> None:
    from rich import box
    from rich.table import Table
    from rich.text import Text

    from wornpage.cli.console import console
    from wornpage.compose.language import language_of
    from wornpage.compose.tables import lay_out
    from wornpage.tree.heads import column_heads
    from wornpage.tree.nodes import Text as Content
    from wornpage.tree.span import Span
    from wornpage.tree.walk import words_of

    span = Span("", 1)
    laid = lay_out(data, None, language_of("en"), span, lambda told: (Content(span, told.text),))
    table = Table(box=box.SIMPLE_HEAD, pad_edge=False)
    for heads, align in zip(column_heads(laid), laid.aligns, strict=True):
        table.add_column(Text("\n".join(heads)), justify="right" if align == "right" else "left")
    for row in laid.rows[:60]:
        table.add_row(*(Text(words_of(cell)) for cell in row))
    console().print(table)
    more = len(laid.rows) - 60 + data.left_out
    if more > 0:
        typer.echo(f"… {more:,} more rows")
