"""`worn compare --outputs`: whether the outputs of a page say the same."""

from __future__ import annotations

import datetime
import json
from pathlib import Path

import typer
from msgspec.structs import replace

from wornpage.cli.given import given_for
from wornpage.cli.say import say
from wornpage.compare.outputs import FORMULA, Checked
from wornpage.tree.nodes import Footnote, Math, Node, Text
from wornpage.tree.problem import UsageError
from wornpage.tree.walk import rewrite

_MOST = 12
"""Things that one output does not say, which are told."""


def compare_outputs(page: Path, given: list[str] | None, as_json: bool) -> None:
    """Hold each output of the last pressing against the page. Exit status 1 where one does not say all of it."""
    from wornpage.cli.progress import TerminalReporter
    from wornpage.colophon import colophon_of
    from wornpage.compare.outputs import checked, compares
    from wornpage.output.audience import for_output
    from wornpage.output.outputs import output_of
    from wornpage.plan import manifest
    from wornpage.press import Order, composed_for, proof_of
    from wornpage.showing.taking import showing_of

    last = manifest.last(page)
    made = [(kind, Path(path)) for kind, path in last.outputs if compares(kind) and Path(path).exists()] if last else []
    if not made:
        raise UsageError(
            f"{page} has no outputs that could be compared. Press it first: `worn press {page} --as html,pdf`."
        )
    proof = proof_of(Order(page, str(page), given=given_for(page, given, "")), TerminalReporter())
    colophon = colophon_of(proof.source, proof.settings, proof.record)
    found: list[Checked] = []
    for kind, path in made:
        composed, _ = composed_for(kind, proof, datetime.date.today())
        shown = for_output(composed, kind, getattr(output_of(kind), "shown_as", ""))
        own = rewrite(shown.blocks, _without_formulas)
        head = replace(shown.head, abstract=rewrite(shown.head.abstract, _without_formulas))
        showing, _ = showing_of(proof.source, replace(shown, blocks=own, head=head), proof.record, colophon)
        found.append(checked(kind, path, showing))
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


def _without_formulas(node: Node) -> Node | tuple[Node, ...] | None:
    """Formulas as the sign for one; and a sign where a note is called, whose number stands there."""
    if isinstance(node, Math):
        return Text(node.span, FORMULA)
    if isinstance(node, Footnote):
        return replace(node, blocks=rewrite(node.blocks, _without_formulas)), Text(node.span, FORMULA)
    return None


def _print(one: Checked) -> None:
    typer.echo(f"{one.path}: {one.count - len(one.missing):,} of {one.count:,} things that the page says")
    if one.unread:
        say(f"  {one.unread} more are in scripts whose letters cannot be read back from it")
    for lack in one.missing[:_MOST]:
        around = f"  (… {lack.around} …)" if lack.around else ""
        say(f"  {lack.place}: {lack.kind} {lack.said[:80]!r} is not in the {one.output}{around}")
    if len(one.missing) > _MOST:
        say(f"  … {len(one.missing) - _MOST} more")
