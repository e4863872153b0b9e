"""`worn compare --outputs`: whether the outputs of a page say the same."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING

import typer

from wornpage.cli.given import given_for
from wornpage.cli.say import say
from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from wornpage.compare.outputs import Checked

_MOST = 12
"""Things that one output does not say, which are told."""


def compare_outputs(page: Path, given: list[str] | None, as_json: bool) -> None:
    """Hold each output of the last pressing against the page. Exit status 1 where one does not say all of it."""
    from wornpage.cli.progress import TerminalReporter
    from wornpage.compare.outputs import checked_outputs, made_of

    made = made_of(page)
    if not made:
        raise UsageError(
            f"{page} has no outputs that could be compared. Press it first: `worn press {page} --as html,pdf`."
        )
    found = checked_outputs(page, made, given_for(page, given, ""), TerminalReporter())
    if as_json:
        told = [
            {"output": one.output, "path": str(one.path), "count": one.count, "unread": one.unread, "missing": [
                {"kind": lack.kind, "said": lack.said, "place": lack.place, "around": lack.around} for lack in one.missing
            ]}
            for one in found
        ]  # fmt: skip
        typer.echo(json.dumps(told, ensure_ascii=False, indent=2))
    else:
        for one in found:
            _print(one)
    if any(one.missing for one in found):
        raise typer.Exit(1)


def _print(one: Checked) -> None:
    typer.echo(f"{one.path}: {one.count - len(one.missing):,} of {one.count:,} things that the page says")
    if one.unread:
        say(f"  {one.unread} more are in scripts whose letters cannot be read back from it")
    for lack in one.missing[:_MOST]:
        around = f"  (… {lack.around} …)" if lack.around else ""
        say(f"  {lack.place}: {lack.kind} {lack.said[:80]!r} is not in the {one.output}{around}")
    if len(one.missing) > _MOST:
        say(f"  … {len(one.missing) - _MOST} more")
