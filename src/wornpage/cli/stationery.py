"""`worn stationery`: the looks there are, and one to change."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from wornpage.cli.say import say

app = typer.Typer(help="The looks of pages.", no_args_is_help=True)


@app.command("list")
def list_stationeries() -> None:
    """Name the stationeries that are built in, and what each is for."""
    from wornpage.output.stationery import find_stationery, names

    for name in names():
        typer.echo(f"{name:<12} {find_stationery(name, Path('page.md')).about}")


@app.command("copy")
def copy(
    name: Annotated[str, typer.Argument(help="A built-in stationery.", show_default=False)],
    folder: Annotated[Path, typer.Argument(help="Where to write it.", metavar="DIR", show_default=False)],
) -> None:
    """Write a stationery into a folder, to be changed; name the folder in the front matter to use it."""
    from wornpage.output.stationery import copy_stationery

    for path in copy_stationery(name, folder):
        typer.echo(str(path))
    say(f"use it with `stationery: {folder.name}` in the front matter")
