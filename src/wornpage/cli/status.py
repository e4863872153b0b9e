"""`worn status`, `worn graph`, `worn settings`: what is so, without running anything."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
import typer

from wornpage.cli.arguments import AsJson, EditionName, GivenValues, PageArgument
from wornpage.cli.given import prepared
from wornpage.cli.say import say, seconds
from wornpage.tree.problem import UsageError, near_miss

if TYPE_CHECKING:
    from rich.tree import Tree

    from wornpage.plan.status import Status
    from wornpage.settings import ChunkSettings, Settings


def status(
    page: PageArgument,
    given: GivenValues = None,
    edition: EditionName = "",
    of: Annotated[
        str,
        typer.Option(
            "--of",
            metavar="WHAT",
            help='List all that hangs on this instead: a data file ("data/climate.csv"), one of its columns ("climate.csv[humidity]"), a chunk, a package or a given value.',
        ),
    ] = "",
    as_json: AsJson = False,
) -> None:
    """Say which chunks are fresh and which are stale, why, and how long they will take. Nothing is run.

    With --of: every number, figure, table and sentence that hangs on something. What is stale is run for that; nothing is written.
    """
    if of:
        from wornpage.cli.hanging import tell_hanging

        tell_hanging(page, of, given, edition, as_json)
        return
    from wornpage.plan.status import status_of

    source, settings = prepared(page, given, edition)
    found = status_of(source, settings, edition, _is_as_pressed(page, given, edition))
    if as_json:
        chunks = [
            {
                "label": c.label,
                "line": c.line,
                "state": "fresh" if c.fresh else "stale",
                "why": c.why,
                "seconds": c.seconds,
            }
            for c in found.chunks
        ]
        typer.echo(json.dumps({"chunks": chunks, "seconds": found.seconds}, ensure_ascii=False, indent=2))
        return
    _print_status(found)


def _is_as_pressed(page: Path, given: list[str] | None, edition: str) -> bool:
    import time

    from wornpage.cli.given import given_for
    from wornpage.plan.manifest import is_as_pressed
    from wornpage.press import as_chosen
    from wornpage.tree.version import VERSION

    chosen = as_chosen(given_for(page, given, edition))
    return is_as_pressed(page, edition, time.strftime("%Y-%m-%d"), VERSION, chosen)


def _print_status(found: Status) -> None:
    from rich import box
    from rich.table import Table

    from wornpage.cli.console import console

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False)
    for head, options in (
        ("", {}),
        ("chunk", {"no_wrap": True}),
        ("state", {}),
        ("last run", {"justify": "right"}),
        ("why", {"ratio": 1}),
    ):
        table.add_column(head, **options)
    for chunk in found.chunks:
        mark, state, style = ("●", "fresh", "green") if chunk.fresh else ("○", "stale", "yellow")
        took = seconds(chunk.seconds) if chunk.seconds is not None else ""
        table.add_row(
            f"[{style}]{mark}[/]", chunk.label, f"[{style}]{state}[/]", took, "" if chunk.fresh else _escape(chunk.why)
        )
    console().print(table)
    stale = sum(not chunk.fresh for chunk in found.chunks)
    unknown = any(chunk.seconds is None and not chunk.fresh for chunk in found.chunks)
    took = f"at most {seconds(found.seconds)}{' and what has never run' if unknown else ''}" if stale else ""
    say(f"{stale} of {len(found.chunks)} chunks must run: {took}" if stale else "everything is fresh")


def _escape(text: str) -> str:
    from rich.markup import escape

    return escape(text)


def graph(
    page: PageArgument,
    svg: Annotated[Path | None, typer.Option("--svg", metavar="FILE", help="Draw it into this file.")] = None,
    as_json: AsJson = False,
) -> None:
    """Show what flows where: data files, chunks, and the names between them; fresh and stale told apart."""
    from wornpage.plan.status import status_of

    source, settings = prepared(page)
    found = status_of(source, settings)
    states = {chunk.label: chunk.fresh for chunk in found.chunks}
    if svg is not None:
        from wornpage.cli.writing import save
        from wornpage.compose.graph import draw_graph

        data_files = (source.path.parent / name for name in found.graph.files)
        save(svg, draw_graph(found.graph, states), [source.path, *(file.path for file in source.files), *data_files])
        typer.echo(str(svg))
    elif as_json:
        nodes = [{"name": file, "kind": "file"} for file in found.graph.files]
        nodes += [{"name": c, "kind": "chunk", "state": "fresh" if states[c] else "stale"} for c in found.graph.chunks]
        edges = [{"from": e.source, "to": e.target, "names": list(e.what)} for e in found.graph.edges]
        typer.echo(json.dumps({"nodes": nodes, "edges": edges}, ensure_ascii=False, indent=2))
    else:
        _print_graph(source.path.name, found, states)


def _print_graph(name: str, found: Status, states: dict[str, bool]) -> None:
    """A tree: under each node what reads it; a chunk that reads several stands whole under the first, named under the rest."""
    from rich.tree import Tree

    from wornpage.cli.console import console

    edges = found.graph.edges
    readers: dict[str, list[Any]] = {}
    for edge in edges:
        readers.setdefault(edge.source, []).append(edge)
    targets = {edge.target for edge in edges}
    drawn: set[str] = set()

    def label(node: str) -> str:
        if node in found.graph.files:
            return f"[blue]▤ {_escape(node)}[/]"
        return f"[green]● {node}[/]" if states[node] else f"[yellow]○ {node}[/] (stale)"

    def add(tree: Tree, node: str, what: str) -> None:
        if node in drawn:
            tree.add(f"{label(node)}{what} …")
            return
        drawn.add(node)
        branch = tree.add(label(node) + what)
        for edge in readers.get(node, ()):
            names = ", ".join(edge.what[:4]) + (" …" if len(edge.what) > 4 else "")
            add(branch, edge.target, f"  [dim]{_escape(names)}[/]" if names else "")

    tree = Tree(_escape(name))
    for node in (*found.graph.files, *found.graph.chunks):
        if node not in targets:
            add(tree, node, "")
    console().print(tree)
    typer.echo("● fresh   ○ stale   ▤ file   … shown above")


def given(page: PageArgument, as_json: AsJson = False) -> None:
    """Say what a page can be given: types, values, what is allowed. With --json as JSON Schema."""
    from wornpage.cli.given import print_givens

    print_givens(page, as_json)


def settings(
    page: PageArgument,
    label: Annotated[
        str | None, typer.Argument(help="A chunk's label; all chunks otherwise.", show_default=False)
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Say what each setting of a page and its chunks is, and which level it came from."""
    from wornpage.source import all_chunks

    source, settled = prepared(page)
    known = {chunk.label: settled.of(chunk) for chunk in all_chunks(source)}
    labels = [label.removeprefix("#")] if label else list(known)
    for wanted in labels:
        if wanted not in known:
            raise UsageError(f"no chunk is labelled {wanted!r}. {near_miss(wanted, known)}")
    if as_json:
        chunks = {wanted: _levels(known[wanted]) for wanted in labels}
        shown = {"page": dict(_page_levels(settled)), "chunks": chunks}
        typer.echo(json.dumps(shown, ensure_ascii=False, indent=2, default=str))
        return
    _print_settings(settled, {wanted: known[wanted] for wanted in labels}, bool(label))


def _page_levels(settled: Settings) -> Iterator[tuple[str, dict[str, Any]]]:
    """What was set for the page itself, by name."""
    for name, level in settled.levels.items():
        if not name.startswith("chunks."):
            value: object = settled.page
            for part in name.split("."):
                value = getattr(value, part.replace("-", "_"))
            yield name, {"value": msgspec.to_builtins(value), "level": level}


def _levels(chunk: ChunkSettings) -> dict[str, dict[str, Any]]:
    return {
        name.replace("_", "-"): {"value": getattr(chunk.options, name), "level": level}
        for name, level in chunk.levels.items()
    }


def _print_settings(settled: Settings, chunks: dict[str, ChunkSettings], whole: bool) -> None:
    from rich import box
    from rich.table import Table

    from wornpage.cli.console import console

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False)
    for head in ("of", "setting", "value", "level"):
        table.add_column(head)
    for name, told in [] if whole else _page_levels(settled):
        table.add_row("page", name, _escape(_value(told["value"])), told["level"])
    for label, chunk in chunks.items():
        for name, told in _levels(chunk).items():
            if whole or told["level"] != "built in":
                table.add_row(label, name, _escape(_value(told["value"])), told["level"])
    console().print(table)
    if not whole:
        say("what is not listed is as built in; name a chunk to see all of its options")


def _value(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list | tuple):
        return ", ".join(map(_value, value)) or "none"
    if isinstance(value, dict):
        return "; ".join(f"{key}: {_value(inner)}" for key, inner in value.items() if inner)
    return "none" if value is None else str(value)
