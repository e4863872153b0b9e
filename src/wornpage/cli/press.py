"""`worn press`: run what must run, write the outputs."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from wornpage.cli.say import say, say_problems, seconds
from wornpage.tree.problem import PageError, Problem

if TYPE_CHECKING:
    from wornpage.plan import ChunkOutcome
    from wornpage.press import Pressing


def press(
    page: Annotated[Path, typer.Argument(help="The page to press.", show_default=False)],
    kinds: Annotated[str, typer.Option("--as", metavar="html,pdf", help="The outputs, with commas between.")] = "html",
    out: Annotated[
        Path | None, typer.Option("--out", metavar="DIR", help="Write the outputs here, not beside the page.")
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object on standard output.")] = False,
    then_open: Annotated[bool, typer.Option("--open", help="Open the first output when it is done.")] = False,
) -> None:
    """Run a page's chunks in a fresh session and write its outputs beside it.

    Exit status 0 if all went well, 1 if the page or its code is at fault, 2 if the command line is.
    """
    from wornpage.cli.progress import TerminalReporter
    from wornpage.plan import SilentReporter
    from wornpage.press import PressingFailed
    from wornpage.press import press as press_page

    begun = time.perf_counter()
    outputs = [kind.strip().lower() for kind in kinds.split(",") if kind.strip()]
    reporter = SilentReporter() if as_json else TerminalReporter()
    try:
        pressing = press_page(page, outputs or ["html"], out, reporter)
    except PageError as error:
        if as_json:
            chunks = error.chunks if isinstance(error, PressingFailed) else ()
            _print_json([], chunks, error.problems)
            raise typer.Exit(1) from None
        raise
    if as_json:
        shown = [{"kind": o.kind, "path": str(o.path), "written": o.written} for o in pressing.outputs]
        _print_json(shown, pressing.chunks, pressing.warnings)
    else:
        say_problems(pressing.warnings)
        _tell(pressing, time.perf_counter() - begun)
    if then_open:
        typer.launch(str(pressing.outputs[0].path))


def _tell(pressing: Pressing, took: float) -> None:
    """The files on standard output, the time on standard error."""
    for output in pressing.outputs:
        typer.echo(f"{output.path}{'' if output.written else '  (unchanged)'}")
    say(f"pressed in {seconds(took)}")


def _print_json(outputs: list[dict[str, Any]], chunks: tuple[ChunkOutcome, ...], problems: tuple[Problem, ...]) -> None:
    shown = {
        "outputs": outputs,
        "chunks": [
            {"label": c.label, "outcome": str(c.outcome), "seconds": round(c.seconds, 6), "why": c.why} for c in chunks
        ],
        "problems": [
            {
                "file": p.span.file,
                "line": p.span.line,
                "column": p.span.column,
                "severity": str(p.severity),
                "what": p.what,
                "hint": p.hint,
                "detail": p.detail,
            }
            for p in problems
        ],
    }
    typer.echo(json.dumps(shown, ensure_ascii=False, indent=2))
