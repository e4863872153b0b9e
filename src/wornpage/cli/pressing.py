"""Pressing for someone at the terminal. Knows nothing of how the command line is read."""

from __future__ import annotations

import json
import time
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from wornpage.cli.given import given_from
from wornpage.cli.plain import nothing_to_do
from wornpage.cli.say import say, say_problems, seconds
from wornpage.cli.writing import check_target, save
from wornpage.tree.files import as_json
from wornpage.tree.hosts import usual_output
from wornpage.tree.problem import PageError

if TYPE_CHECKING:
    from wornpage.plan.record import ChunkOutcome
    from wornpage.press import Output, Pressing
    from wornpage.tree.problem import Problem


@dataclass(frozen=True, slots=True)
class Wanted:
    """What `worn press` was asked for; see its help."""

    page: Path
    kinds: str = ""
    """Empty for the usual one."""
    out: Path | None = None
    afresh: bool = False
    record: Path | None = None
    as_json: bool = False
    then_open: bool = False
    stationery: str | None = None
    given: tuple[str, ...] = ()
    given_file: Path | None = None
    workers_at: str = ""
    looked: bool = False
    """It has been seen already that there is something to do."""

    @property
    def outputs(self) -> list[str]:
        """The kinds, apart."""
        asked = [kind.strip().lower() for kind in self.kinds.split(",") if kind.strip()]
        return asked or [usual_output(self.page.suffix)]


@dataclass(frozen=True, slots=True)
class Wish:
    """Which editions were asked for, and who presses them."""

    patterns: tuple[str, ...] = ()
    where: tuple[str, ...] = ()
    jobs: int | None = None
    workers_at: str | None = None


def press_wanted(wanted: Wanted) -> int:
    """Press, and tell about it. The exit status; a page at fault raises `PageError` unless JSON was asked for."""
    begun = time.perf_counter()
    outputs = wanted.outputs
    quick = (
        not wanted.looked
        and not wanted.afresh
        and wanted.record is None
        and not wanted.then_open
        and wanted.stationery is None
        and not wanted.given
        and not wanted.given_file
    )
    if quick and nothing_to_do(wanted.page, ",".join(outputs), wanted.out, wanted.as_json):
        return 0
    if wanted.record is not None:
        check_target(wanted.record, [wanted.page])
    from wornpage.session.early import early_session

    early = early_session(wanted.page, wanted.afresh)  # it starts while the rest of the program is still being imported
    from wornpage.cli.progress import TerminalReporter
    from wornpage.plan.record import SilentReporter
    from wornpage.press import PressingFailed
    from wornpage.press import press as press_page

    reporter = SilentReporter() if wanted.as_json else TerminalReporter()
    try:
        pressing = press_page(
            wanted.page,
            outputs,
            wanted.out,
            reporter,
            afresh=wanted.afresh,
            early=early,
            stationery=wanted.stationery,
            given=given_from(wanted.given, wanted.given_file),
            workers_at=wanted.workers_at,
        )
    except PageError as error:
        failed = error if isinstance(error, PressingFailed) else PressingFailed(error.problems)
        if wanted.as_json:
            _print_json(failed.outputs, failed.chunks, error.problems)
            return 1
        _tell_outputs(failed.outputs)
        raise
    if wanted.record is not None:
        text = json.dumps(pressing.colophon.to_data(), ensure_ascii=False, indent=2) + "\n"
        data_files = (wanted.page.parent / name for name in pressing.colophon.data)
        save(wanted.record, as_json(text), [wanted.page, *data_files])
    if wanted.as_json:
        _print_json(pressing.outputs, pressing.chunks, pressing.warnings)
    else:
        say_problems(pressing.warnings)
        _tell(pressing, time.perf_counter() - begun)
    if wanted.then_open:
        open_file(pressing.outputs[0].path)
    return 0


def open_file(path: Path) -> None:
    """Open a file with whatever the person at the terminal has for it."""
    import webbrowser

    webbrowser.open(path.resolve().as_uri())


def _tell(pressing: Pressing, took: float) -> None:
    """The files on standard output, the rest on standard error."""
    _tell_outputs(pressing.outputs)
    reused = sum(chunk.outcome == "reused" for chunk in pressing.chunks)
    ran = sum(chunk.outcome == "ran" for chunk in pressing.chunks)
    counts = f"{ran} run, {reused} reused, " if pressing.chunks else ""
    say(f"pressed: {counts}{seconds(took)}")


def _chunk(chunk: ChunkOutcome) -> dict[str, object]:
    return {"label": chunk.label, "outcome": str(chunk.outcome), "seconds": round(chunk.seconds, 6), "why": chunk.why}


def _tell_outputs(outputs: Sequence[Output]) -> None:
    for output in outputs:
        print(f"{output.path}{'' if output.written else '  (unchanged)'}")


def _print_json(outputs: Sequence[Output], chunks: Sequence[ChunkOutcome], problems: Sequence[Problem]) -> None:
    shown = {
        "outputs": [{"kind": one.kind, "path": str(one.path), "written": one.written} for one in outputs],
        "chunks": [_chunk(chunk) for chunk in chunks],
        "problems": [problem.to_data() for problem in problems],
    }
    print(json.dumps(shown, ensure_ascii=False, indent=2))
