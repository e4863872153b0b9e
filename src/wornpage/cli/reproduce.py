"""`worn reproduce`: a run from nothing, compared with the record."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Annotated, Any

import typer

from wornpage.cli.arguments import EditionName, PageArgument
from wornpage.cli.say import say
from wornpage.tree.problem import UsageError


def reproduce(
    page: PageArgument,
    record: Annotated[
        Path | None,
        typer.Argument(metavar="[FILE]", help="The record to compare with; that of the last pressing otherwise."),
    ] = None,
    edition: EditionName = "",
) -> None:
    """Run a page from nothing in a store of its own, and compare all it shows with the record of a pressing.

    It is run for the given values of the record. Exit status 1 if anything differs; what differs is told chunk by chunk.
    """
    from wornpage.cli.progress import TerminalReporter
    from wornpage.colophon import differences
    from wornpage.plan import manifest
    from wornpage.press import press

    before = _read(record or manifest.colophon_file(page, edition), record is None)
    with tempfile.TemporaryDirectory(prefix="worn-") as place:
        last = manifest.last(page, edition)
        made = {kind: Path(path) for kind, path in last.outputs if Path(path).exists()} if last and not record else {}
        pressing = press(
            page,
            list(made) or ["html"],
            Path(place) / "outputs",
            TerminalReporter(),
            afresh=True,
            store=Path(place) / "store",
            given=before.get("given", {}),
        )
        found = differences(before, json.loads(json.dumps(pressing.colophon.to_data())))
        for output in pressing.outputs:
            here = made.get(output.kind)
            if here is not None and here.read_bytes() != output.path.read_bytes():
                found.append(f"output {here}: the bytes differ")
    for line in found:
        typer.echo(line)
    if found:
        say(f"{len(found)} differences")
        raise typer.Exit(1)
    say("everything is the same")


def _read(path: Path, is_ours: bool) -> dict[str, Any]:
    """The record in a file, as plain data. Raises `UsageError` for what is none."""
    from wornpage.colophon import read_record

    try:
        return read_record(path.read_bytes())
    except (FileNotFoundError, NotADirectoryError):
        hint = "Press the page first." if is_ours else "Write one with `worn press --write-colophon FILE`."
        raise UsageError(f"there is no record {path}. {hint}") from None
    except OSError as error:
        raise UsageError(f"{path} cannot be read: {error.strerror}.") from None
    except ValueError as error:
        raise UsageError(f"{path} is no record of a pressing: {error}.") from None
