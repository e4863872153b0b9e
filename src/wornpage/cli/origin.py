"""`worn origin`: where something that a page shows comes from."""

from __future__ import annotations

import datetime
import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from wornpage.cli.arguments import AsJson, EditionName, GivenValues, PageArgument
from wornpage.cli.given import given_for
from wornpage.cli.say import say, say_problems, seconds
from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from rich.tree import Tree

    from wornpage.lineage.finding import Target
    from wornpage.lineage.steps import Named, Source, Step
    from wornpage.lineage.telling import Answer, Taken, Told

_MOST = 3
"""Things of which all is told where several are meant."""
_SHORT = 12
"""Digits of a hash that are told."""


def origin(
    page: PageArgument,
    what: Annotated[
        str,
        typer.Argument(
            metavar="WHAT",
            help='A value as it is shown ("14.6%"), a label, a word of a caption, a cell ("costs[Quayside, Mean]"), a line ("12", "part.md:12"), an address ("page.html#costs").',
            show_default=False,
        ),
    ],
    given: GivenValues = None,
    edition: EditionName = "",
    svg: Annotated[Path | None, typer.Option("--svg", metavar="FILE", help="Draw it into this file.")] = None,
    as_json: AsJson = False,
) -> None:
    """Say where a value, a figure or a table comes from: the code that made it, and all the way back to the data.

    What is stale of the page is run; nothing is written. With --json in the W3C's provenance format.
    """
    from wornpage.cli.progress import TerminalReporter
    from wornpage.lineage.finding import find
    from wornpage.lineage.telling import answer_of
    from wornpage.lineage.tracing import lineage_of
    from wornpage.press import Order, proof_of

    _check_is_page(page)
    proof = proof_of(Order(page, str(page), given=given_for(page, given, edition)), TerminalReporter())
    say_problems(proof.warnings)
    lineage = lineage_of(proof.source, proof.settings, proof.record)
    try:
        targets = find(what, proof.composed, lineage)
    except LookupError as error:
        raise UsageError(f"{page} shows nothing that says {what!r}. {error}".strip()) from None
    first = _different(targets)
    answers = [answer_of(target, lineage) for target in first[:_MOST]]
    if svg is not None:
        from wornpage.cli.writing import save
        from wornpage.compose.graph import draw_graph

        save(svg, draw_graph(answers[0].graph), [proof.source.path, *(file.path for file in proof.source.files)])
        typer.echo(str(svg))
    elif as_json:
        from wornpage.lineage.prov import prov_of

        typer.echo(json.dumps(prov_of(answers), ensure_ascii=False, indent=2))
    else:
        for answer in answers:
            _print(answer)
    _tell_others(what, targets, first)


def _check_is_page(path: Path) -> None:
    """Raise `UsageError` for an output that lies beside its page."""
    source = path.with_suffix(".md")
    if path.suffix == ".md" or not source.exists():
        return
    from wornpage.compare.reading import is_output

    if is_output(path):
        raise UsageError(f"{path} is an output; ask the page that it was made of: `worn origin {source} …`.")


def _different(targets: list[Target]) -> list[Target]:
    """One target for each step that made any."""
    return list({(one.step, one.exact): one for one in reversed(targets)}.values())[::-1]


def _tell_others(what: str, targets: list[Target], first: list[Target]) -> None:
    if len(targets) == 1:
        return
    places = ", ".join(dict.fromkeys(str(one.span) for one in targets))
    more = f" The first {_MOST} are told." if len(first) > _MOST else ""
    say(f"{what!r} stands in {len(targets)} places: {places}.{more} Name a place to ask for one alone.")


# --- in the terminal --------------------------------------------------------------------------


def _print(answer: Answer) -> None:
    from rich.markup import escape
    from rich.tree import Tree

    from wornpage.cli.console import console

    target = answer.target
    said = " ".join(target.said.split())
    head = f"[bold]{escape(said[:200] or target.label)}[/]  [dim]{escape(_kind(target))}{escape(str(target.span))}[/]"
    tree = Tree(head)
    if target.around and target.around != said:
        tree.add(f"[italic]{escape(target.around)}[/]")
    if target.exact:
        tree.add(f"before rounding  [bold]{escape(target.exact)}[/]")
    if not answer.steps:
        tree.add("written by hand: no chunk and no value mark made it")
        if target.beside:
            tree.add(escape(f"values in the same text: {', '.join(target.beside)}"))
    else:
        _add(tree, answer.steps[0], {told.step.key: told for told in answer.steps}, set())
        _add_libraries(tree, answer)
    console().print(tree)


def _kind(target: Target) -> str:
    names = {"value": "", "words": "", "figure": "figure ", "table": "table ", "cell": f"cell of `{target.label}` "}
    return names.get(target.kind, f"{target.kind} ")


def _add(tree: Tree, told: Told, steps: dict[str, Told], drawn: set[str]) -> None:
    """A step and what it comes from, below each other; one that has been told is only named."""
    from rich.markup import escape

    step = told.step
    branch = tree.add(_headed(step)) if step.kind == "mark" or not drawn else tree
    drawn.add(step.key)
    for taken in told.takes:
        below = steps[taken.key]
        inner = branch.add(_taken(taken, below.step, taken.key in drawn))
        if taken.key not in drawn:
            _add(inner, below, steps, drawn)
    for source, named in told.files:
        branch.add(f"[blue]▤ {escape(source.name)}[/]  [dim]{escape(source.value[:_SHORT])}[/]{_named(named)}")
    for source in told.others:
        if source.kind != "package":
            branch.add(escape(_source(source)))


def _headed(step: Step) -> str:
    from rich.markup import escape

    if step.kind == "mark":
        value = f"  =  [bold]{escape(str(step.value))}[/]" if step.value is not None else ""
        return f"{escape('{= ' + ' '.join(step.code.split()) + '}')}{value}"
    return f"[green]● {escape(step.label)}[/]  [dim]{escape(str(step.span))}{escape(_ran(step))}[/]"


def _ran(step: Step) -> str:
    if not step.at:
        return ""
    at = datetime.datetime.fromtimestamp(step.at).astimezone()
    return f"  ran {at:%Y-%m-%d %H:%M}, {seconds(step.seconds)}"


def _taken(taken: Taken, step: Step, is_above: bool) -> str:
    from rich.markup import escape

    names = ", ".join(taken.names[:6]) + (" …" if len(taken.names) > 6 else "")
    lines = ", ".join(str(line) for line in taken.lines[:3])
    where = f"{step.span.file}:{lines}" if lines else str(step.span)
    named = "".join(_named(one, f"{name}." if len(taken.names) > 1 else "") for name, one in taken.named)
    tail = " …" if is_above else escape(_ran(step))
    return f"{escape(names)}  ←  [green]● {escape(step.label)}[/]  [dim]{escape(where)}{tail}[/]{named}"


def _named(named: Named, before: str = "") -> str:
    from rich.markup import escape

    parts = [f"columns {', '.join(before + column for column in named.columns)}"] if named.columns else []
    parts += [f"rows {row}" for row in named.rows[:3]]
    return escape(f"  {'; '.join(parts)}") if parts else ""


def _source(source: Source) -> str:
    match source.kind:
        case "given":
            return f"given {source.name} = {source.value}"
        case "seed":
            return f"random numbers that begin with {source.value}"
        case "environment":
            return f"the environment's {source.name} = {source.value}"
        case "module":
            return f"the project's {source.name}  {source.value[:_SHORT]}"
        case "clock":
            return f"the clock ({source.name})"
        case "network":
            return "the network"
    return f"{source.kind} {source.name}"


def _add_libraries(tree: Tree, answer: Answer) -> None:
    from rich.markup import escape

    found = {source.name: source.value for told in answer.steps for source in told.others if source.kind == "package"}
    if found:
        tree.add(escape("libraries  " + ", ".join(f"{name} {version}" for name, version in sorted(found.items()))))
