"""`worn bind`: several pages as one work."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from wornpage.cli.binding import Asked, bind_wanted


def bind(
    volume: Annotated[
        Path | None, typer.Argument(help="A `volume.yaml`, or the folder it lies in; this folder otherwise.")
    ] = None,
    kinds: Annotated[
        str, typer.Option("--as", metavar="html,pdf", help="The outputs, with commas between; html is a site.")
    ] = "html",
    only: Annotated[
        list[str] | None,
        typer.Option("--only", metavar="PAGE", help="Run and write this page; others stay as they are."),
    ] = None,
    out: Annotated[
        Path | None, typer.Option("--out", metavar="DIR", help="Write here, not into `bound` beside the volume.")
    ] = None,
    afresh: Annotated[
        bool, typer.Option("--afresh", help="Run everything: reuse nothing of earlier pressings.")
    ] = False,
    jobs: Annotated[
        int | None, typer.Option("--jobs", metavar="N", min=1, help="Pages run at a time.  [default: cores]")
    ] = None,
    workers_at: Annotated[
        str | None,
        typer.Option("--workers-at", metavar="ADDRESS", help="Run pages on the workers of this Dask scheduler."),
    ] = None,
    each: Annotated[
        bool, typer.Option("--each", help="A document for each page, not one of all; sites have a file a page anyway.")
    ] = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object on standard output.")] = False,
    then_open: Annotated[bool, typer.Option("--open", help="Open the first output when it is done.")] = False,
) -> None:
    """Bind the pages of a volume as one work: a site, a PDF, a document.

    Each page runs by itself, side by side with others, and only what must run runs. A page that fails is told, and has a notice in its
    place. Exit status 0 if all went well, 1 if a page or its code is at fault, 2 if the command line is.
    """
    asked = Asked(volume or Path(), kinds, tuple(only or ()), out, afresh, jobs, as_json, then_open, each, workers_at)
    if status := bind_wanted(asked):
        raise typer.Exit(status)
