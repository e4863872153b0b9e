"""`worn environment`: which packages a page really uses."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import msgspec
import typer
from msgspec.structs import replace

from wornpage.cli.arguments import AsJson, EditionName, GivenValues, PageArgument
from wornpage.cli.given import given_for
from wornpage.cli.say import say
from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from wornpage.handover.needs import Needs, Package

_WRITERS = (".toml", ".txt")


def environment(
    page: PageArgument,
    write: Annotated[
        Path | None,
        typer.Option(
            "--write",
            metavar="FILE",
            help="Write them as a lock file (`pylock.toml`) or as requirements (`requirements.txt`), with the hashes that the index gives.",
        ),
    ] = None,
    given: GivenValues = None,
    edition: EditionName = "",
    as_json: AsJson = False,
) -> None:
    """Say which packages of which versions the chunks of a page have used, in Python and in R. What is stale is run."""
    from wornpage.cli.progress import TerminalReporter
    from wornpage.handover.needs import needs_of_page
    from wornpage.handover.system import libraries_of
    from wornpage.press import Order, proof_of

    if write is not None and write.suffix not in _WRITERS:
        raise UsageError(f"{write} is to be `pylock.toml` or `requirements.txt`.")
    proof = proof_of(Order(page, str(page), given=given_for(page, given, edition)), TerminalReporter())
    needs = needs_of_page(proof.record)
    needs = replace(needs, libraries=libraries_of(needs))
    if write is not None:
        _write(write, needs, page)
    if as_json:
        typer.echo(json.dumps(msgspec.to_builtins(needs), ensure_ascii=False, indent=2))
    elif write is None:
        _print(needs)


def _write(target: Path, needs: Needs, page: Path) -> None:
    from wornpage.cli.writing import save
    from wornpage.handover.locks import as_pylock, as_requirements, releases_of

    releases, why = releases_of(needs.packages, needs.program)
    if why:
        say(f"no hashes: the index of packages does not answer for all of them ({why})")
    text = as_pylock(needs, releases) if target.suffix == ".toml" else as_requirements(needs, releases)
    save(target, text.encode(), [page])
    typer.echo(str(target))
    if needs.r:
        say(f"not in it, since they are R's: {', '.join(f'{one.name} {one.version}' for one in needs.r)}")


def _print(needs: Needs) -> None:
    from rich import box
    from rich.markup import escape
    from rich.table import Table

    from wornpage.cli.console import console

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False)
    for head in ("package", "version", "used by"):
        table.add_column(head)
    for one in (*needs.packages, *needs.r):
        table.add_row(one.name, one.version, escape(_users(one)))
    console().print(table)
    say(f"Python {needs.python}, {needs.system}")
    if needs.libraries:
        say(f"of the system: {', '.join(f'{name} {version}' for name, version in needs.libraries.items())}")


def _users(one: Package) -> str:
    if one.needed_by:
        return f"needed by {', '.join(one.needed_by[:4])}{' …' if len(one.needed_by) > 4 else ''}"
    return ", ".join(one.used_by) or "value marks"
