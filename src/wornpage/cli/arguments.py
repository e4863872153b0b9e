"""Arguments and options that several commands have."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

PageArgument = Annotated[Path, typer.Argument(help="The page.", show_default=False)]
AsJson = Annotated[bool, typer.Option("--json", help="Print one JSON object.")]


GivenValues = Annotated[
    list[str] | None,
    typer.Option("--given", metavar="NAME=VALUE", help="A given value; again for lists and for others."),
]
EditionName = Annotated[str, typer.Option("--edition", metavar="NAME", help="For this edition of the page.")]
