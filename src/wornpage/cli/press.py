"""`worn press` as the command line has it."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from wornpage.cli.pressing import Wanted, press_wanted

GivenValues = Annotated[
    list[str] | None,
    typer.Option(
        "--given",
        metavar="NAME=VALUE",
        help="A given value; again for lists and for others.",
    ),
]


def press(
    page: Annotated[Path, typer.Argument(help="The page to press.", show_default=False)],
    kinds: Annotated[str, typer.Option("--as", metavar="html,pdf", help="The outputs, with commas between.")] = "html",
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
    then_open: Annotated[bool, typer.Option("--open", help="Open the first output when it is done.")] = False,
) -> None:
    """Run what must run of a page's chunks and write its outputs beside it.

    What is provably still right is reused. Exit status 0 if all went well, 1 if the page or its code is at fault, 2 if
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
    )
    status = press_wanted(wanted)
    if status:
        raise typer.Exit(status)
