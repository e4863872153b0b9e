"""`worn store`: what is kept between pressings, and letting go of it."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from wornpage.cli.say import megabytes, say
from wornpage.cli.team import distrust, key, send, trust
from wornpage.tree.problem import UsageError

app = typer.Typer(help="Look after what is kept between pressings.", no_args_is_help=True)
Folder = Annotated[Path, typer.Argument(help="A page, or a folder of the project.", metavar="[PLACE]")]


def _store(place: Path) -> Path:
    """The store of a page or a folder. Raises `UsageError` for one that is there but cannot be looked into."""
    from wornpage.store.place import store_of, trouble_with

    store = store_of(place if place.suffix == ".md" else place / "page.md")
    if why := trouble_with(store):
        raise UsageError(f"{store} cannot be read: {why}. Nothing is changed.")
    return store


@app.command()
def size(place: Folder = Path()) -> None:
    """Say how much is kept, and for which pages."""
    from wornpage.store.care import size as size_of

    store = _store(place)
    found = size_of(store)
    typer.echo(f"{store}: {megabytes(found.bytes)}, {found.traces:,} traces, {found.values:,} values")
    for page in found.pages:
        typer.echo(f"  {page}")


@app.command()
def trim(
    place: Folder = Path(),
    older_than: Annotated[
        float, typer.Option("--older-than", metavar="DAYS", help="Let go of what was not made since.")
    ] = 30,
    at_most: Annotated[
        float | None, typer.Option("--at-most", metavar="MB", help="Then of the oldest, until this much is kept.")
    ] = None,
) -> None:
    """Let go of what is old. What a page's present state uses always stays."""
    from wornpage.store.care import trim as trim_store

    freed = trim_store(_store(place), older_than, None if at_most is None else int(at_most * 1e6))
    say(f"{megabytes(freed)} freed")


@app.command()
def clear(place: Folder = Path()) -> None:
    """Remove everything that is kept; the next pressing runs every chunk."""
    from wornpage.store.care import clear as clear_store

    store = _store(place)
    try:
        freed = clear_store(store)
    except OSError as error:
        raise UsageError(
            f"{error.filename or store} cannot be removed: {error.strerror}. Nothing else is changed."
        ) from None
    say(f"{megabytes(freed)} freed")


@app.command()
def vouch(place: Folder = Path()) -> None:
    """Trust a store that somebody else made: its values will be loaded from now on. Only for people you trust."""
    from wornpage.store.care import vouch as vouch_for

    count = vouch_for(_store(place))
    say(f"{count:,} traces are vouched for now")


for command in (key, trust, distrust, send):
    app.command()(command)
