"""`worn status --of`: all that hangs on a file, a column, a chunk, a package or a given value."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING

import typer

from wornpage.cli.given import given_for
from wornpage.cli.say import say
from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from wornpage.lineage.finding import Target
    from wornpage.lineage.hanging import Hanging

_KINDS = {"value": "number", "words": "text", "equation": "formula"}
_WIDEST = 70
"""Letters of what is said that are told."""


def tell_hanging(page: Path, what: str, given: list[str] | None, edition: str, as_json: bool) -> None:
    """List what hangs on `what`. Raises `UsageError` where nothing of the page has read it."""
    from wornpage.cli.progress import TerminalReporter
    from wornpage.lineage.hanging import hanging_on
    from wornpage.lineage.tracing import lineage_of
    from wornpage.press import Order, proof_of

    proof = proof_of(Order(page, str(page), given=given_for(page, given, edition)), TerminalReporter())
    lineage = lineage_of(proof.source, proof.settings, proof.record)
    try:
        found = hanging_on(what, proof.composed, lineage)
    except LookupError as error:
        raise UsageError(f"nothing of {page} hangs on {what!r}. {error}".strip()) from None
    if as_json:
        typer.echo(json.dumps(_data(found), ensure_ascii=False, indent=2))
    else:
        _print(found)


def _data(found: Hanging) -> dict[str, object]:
    shown = [_shown(one, found) for one in found.shown]
    chunks = [step.label for step in found.steps if step.kind == "chunk"]
    return {"of": found.name, "chunks": chunks, "shown": shown}


def _shown(one: Target, found: Hanging) -> dict[str, object]:
    told: dict[str, object] = {
        "kind": one.kind, "said": one.said, "place": str(one.span), "label": one.label, "around": one.around,
    }  # fmt: skip
    return told | ({"names": one.step in found.named} if found.named else {})


def _print(found: Hanging) -> None:
    from rich import box
    from rich.markup import escape
    from rich.table import Table

    from wornpage.cli.console import console

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False)
    table.add_column("what")
    table.add_column("says", ratio=1)
    table.add_column("at", no_wrap=True)
    if found.named:
        table.add_column("names it")
    for one in found.shown:
        names = [("yes" if one.step in found.named else "perhaps")] if found.named else []
        table.add_row(_KINDS.get(one.kind, one.kind), escape(_said(one)), str(one.span), *names)
    console().print(table)
    chunks = [step.label for step in found.steps if step.kind == "chunk"]
    count = len(found.shown)
    say(f"{count} {'thing' if count == 1 else 'things'} that readers see hang on {found.name}, by {', '.join(chunks)}")


def _said(target: Target) -> str:
    words = " ".join(target.said.split()) or f"`{target.label}`"
    if target.kind == "value" and target.around:
        return f"{words}  ({target.around})"
    return words if len(words) <= _WIDEST else f"{words[:_WIDEST]}…"
