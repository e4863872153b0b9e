"""`worn press` as the command line has it."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from wornpage.cli.arguments import GivenValues
from wornpage.cli.pressing import Wanted, Wish, press_wanted
from wornpage.tree.problem import UsageError


def press(
    page: Annotated[Path, typer.Argument(help="The page to press.", show_default=False)],
    kinds: Annotated[
        str,
        typer.Option(
            "--as",
            metavar="html,pdf",
            help="The outputs, with commas between; `html` is the usual one, `tex` of a LaTeX source.",
            show_default=False,
        ),
    ] = "",
    out: Annotated[
        Path | None, typer.Option("--out", metavar="DIR", help="Write the outputs here, not beside the page.")
    ] = None,
    afresh: Annotated[
        bool, typer.Option("--afresh", help="Run everything: reuse nothing of earlier pressings.")
    ] = False,
    record: Annotated[
        Path | None, typer.Option("--write-colophon", metavar="FILE", help="Write the record of the pressing as JSON.")
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object on standard output.")] = False,
    stationery: Annotated[
        str | None, typer.Option("--stationery", metavar="NAME", help="Other looks than the page names.")
    ] = None,
    given: GivenValues = None,
    given_file: Annotated[
        Path | None, typer.Option("--given-from", metavar="FILE", help="A YAML file of given values.")
    ] = None,
    then_open: Annotated[
        bool, typer.Option("--open", help="Open the first output, or the index of editions, when it is done.")
    ] = False,
    all_editions: Annotated[
        bool, typer.Option("--all-editions", help="Press every edition the page declares, into a folder in `pressed`.")
    ] = False,
    edition: Annotated[
        list[str] | None,
        typer.Option("--edition", metavar="NAME", help="Press this edition; * stands for any letters."),
    ] = None,
    where: Annotated[
        list[str] | None,
        typer.Option("--where", metavar="CONDITION", help="Press the editions for which this is true."),
    ] = None,
    jobs: Annotated[
        int | None, typer.Option("--jobs", metavar="N", min=1, help="Editions pressed at a time.  [default: cores]")
    ] = None,
    workers_at: Annotated[
        str | None,
        typer.Option(
            "--workers-at",
            metavar="ADDRESS",
            help="Press editions, or run chunks that say where=cluster, on the workers of this Dask scheduler.",
        ),
    ] = None,
) -> None:
    """Run what must run of a page's chunks and write its outputs beside it.

    What is provably still right is reused. Of editions, each is pressed whether others fail or not. Exit status 0 if all went well, 1 if the page or its code is at fault, 2 if
    the command line is.
    """
    wanted = Wanted(
        page,
        kinds,
        out,
        afresh,
        record,
        as_json,
        then_open,
        stationery=stationery,
        given=tuple(given or ()),
        given_file=given_file,
        workers_at=workers_at or "",
    )
    if all_editions or edition or where:
        from wornpage.cli.pressing_editions import press_editions_wanted

        wish = Wish(tuple(edition or ()), tuple(where or ()), jobs, workers_at)
        status = press_editions_wanted(wanted, wish)
    elif jobs is not None:
        raise UsageError("--jobs goes with --all-editions, --edition or --where.")
    else:
        status = press_wanted(wanted)
    if status:
        raise typer.Exit(status)
