"""`worn editions`: which there are, and how they stand."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from wornpage.cli.given import said
from wornpage.cli.say import say

if TYPE_CHECKING:
    from wornpage.editions.pressing import Standing


def editions(
    page: Annotated[Path, typer.Argument(help="The page.", show_default=False)],
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
    out: Annotated[Path | None, typer.Option("--out", metavar="DIR", help="Where the editions were written.")] = None,
) -> None:
    """List the editions a page declares: their values, and whether they are fresh or stale."""
    from wornpage.editions.pressing import Choice, counted, standings

    choice = Choice(page, folder=out)
    found = list(standings(counted(choice), {}))
    if as_json:
        data = [
            {
                "name": one.edition.name,
                "given": {name: _plain(value) for name, value in one.edition.values.items()},
                "state": one.state,
                "outputs": [{"kind": kind, "path": path} for kind, path in one.outputs],
                "headline": one.headline,
            }
            for one in found
        ]
        print(json.dumps({"editions": data}, ensure_ascii=False, indent=2))
        return
    _print_table(found)


def _plain(value: object) -> object:
    return value if isinstance(value, str | int | float | bool | list | type(None)) else str(value)


def _print_table(found: list[Standing]) -> None:
    from rich import box
    from rich.table import Table
    from rich.text import Text

    from wornpage.cli.console import console

    names = list(dict.fromkeys(name for one in found for name in one.edition.given))
    table = Table(box=box.SIMPLE_HEAD, pad_edge=False)
    for head in ("edition", *names, "state"):
        table.add_column(head, justify="left")
    colours = {"fresh": "green", "stale": "yellow"}
    for one in found:
        values = [said(one.edition.values.get(name)) for name in names]
        table.add_row(*map(Text, (one.edition.name, *values)), Text(one.state, colours.get(one.state, "dim")))
    console().print(table)
    counts = [f"{sum(one.state == state for one in found)} {state}" for state in dict.fromkeys(o.state for o in found)]
    say(f"{len(found)} editions: {', '.join(counts)}" if found else "no editions")
