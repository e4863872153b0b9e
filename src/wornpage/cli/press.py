"""`worn press`: run what must run, write the outputs."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from wornpage.cli.nothing import nothing_to_do
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
    afresh: Annotated[
        bool, typer.Option("--afresh", help="Run everything: reuse nothing of earlier pressings.")
    ] = False,
    record: Annotated[
        Path | None, typer.Option("--write-colophon", metavar="FILE", help="Write the record of the pressing as JSON.")
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object on standard output.")] = False,
    then_open: Annotated[bool, typer.Option("--open", help="Open the first output when it is done.")] = False,
) -> None:
    """Run what must run of a page's chunks and write its outputs beside it.

    What is provably still right is reused. Exit status 0 if all went well, 1 if the page or its code is at fault, 2 if
    the command line is.
    """
    begun = time.perf_counter()
    outputs = [kind.strip().lower() for kind in kinds.split(",") if kind.strip()] or ["html"]
    if not afresh and record is None and not then_open and nothing_to_do(page, kinds, out, as_json):
        return
    from wornpage.session.early import early_session

    early = early_session(page, afresh)  # it starts while the rest of the program is still being imported
    from wornpage.cli.progress import TerminalReporter
    from wornpage.plan import SilentReporter
    from wornpage.press import PressingFailed
    from wornpage.press import press as press_page

    reporter = SilentReporter() if as_json else TerminalReporter()
    try:
        pressing = press_page(page, outputs, out, reporter, afresh=afresh, early=early)
    except PageError as error:
        if as_json:
            chunks = error.chunks if isinstance(error, PressingFailed) else ()
            _print_json([], [_chunk(chunk) for chunk in chunks], [_problem(p) for p in error.problems])
            raise typer.Exit(1) from None
        raise
    if record is not None:
        text = json.dumps(pressing.colophon.to_data(), ensure_ascii=False, indent=2) + "\n"
        _save(record, text)
    if as_json:
        shown = [{"kind": o.kind, "path": str(o.path), "written": o.written} for o in pressing.outputs]
        _print_json(shown, [_chunk(chunk) for chunk in pressing.chunks], [_problem(p) for p in pressing.warnings])
    else:
        say_problems(pressing.warnings)
        _tell(pressing, time.perf_counter() - begun)
    if then_open:
        typer.launch(str(pressing.outputs[0].path))


def _save(path: Path, text: str) -> None:
    from wornpage.output.atomic import write_file
    from wornpage.tree.problem import UsageError

    try:
        write_file(path, text.encode("utf-8", "surrogatepass"))
    except OSError as error:
        raise UsageError(f"{path} cannot be written: {error.strerror}.") from None


def _tell(pressing: Pressing, took: float) -> None:
    """The files on standard output, the rest on standard error."""
    for output in pressing.outputs:
        typer.echo(f"{output.path}{'' if output.written else '  (unchanged)'}")
    reused = sum(chunk.outcome == "reused" for chunk in pressing.chunks)
    ran = sum(chunk.outcome == "ran" for chunk in pressing.chunks)
    counts = f"{ran} run, {reused} reused, " if pressing.chunks else ""
    say(f"pressed: {counts}{seconds(took)}")


def _chunk(chunk: ChunkOutcome) -> dict[str, Any]:
    return {"label": chunk.label, "outcome": str(chunk.outcome), "seconds": round(chunk.seconds, 6), "why": chunk.why}


def _problem(problem: Problem) -> dict[str, Any]:
    return {
        "file": problem.span.file,
        "line": problem.span.line,
        "column": problem.span.column,
        "severity": str(problem.severity),
        "what": problem.what,
        "hint": problem.hint,
        "detail": problem.detail,
    }


def _print_json(outputs: list[dict[str, Any]], chunks: list[dict[str, Any]], problems: list[dict[str, Any]]) -> None:
    shown = {"outputs": outputs, "chunks": chunks, "problems": problems}
    typer.echo(json.dumps(shown, ensure_ascii=False, indent=2))
