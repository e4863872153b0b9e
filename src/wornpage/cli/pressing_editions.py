"""`worn press` for editions: how they get on, and what came of them."""

from __future__ import annotations

import json
import time
from collections.abc import Iterable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace

from wornpage.cli.given import given_from
from wornpage.cli.pressing import Wanted, Wish, open_file
from wornpage.cli.say import say, say_problems, seconds
from wornpage.tree.problem import PageError, Problem, UsageError

if TYPE_CHECKING:
    from wornpage.editions.pressing import Choice, Edited
    from wornpage.editions.work import Report

_TOLD = 12
"""Kinds of failures, and warnings, that are told in full."""


def press_editions_wanted(wanted: Wanted, wish: Wish) -> int:
    """Press the editions that were asked for, and tell about it. The exit status; as `press_wanted`."""
    if wanted.record is not None:
        raise UsageError("--write-colophon is for one pressing; the record of each edition is kept in the store.")
    from wornpage.editions.pressing import Choice, counted

    given = given_from(wanted.given, wanted.given_file)
    choice = Choice(
        wanted.page, tuple(wanted.outputs), wanted.out, wish.patterns, wish.where, given, wanted.afresh, wanted.stationery
    )  # fmt: skip
    try:
        return _press(choice, counted(choice), wanted, wish)
    except PageError as error:
        if not wanted.as_json:
            raise
        _print_json([], None, error.problems)
        return 1


def _press(choice: Choice, edited: Edited, wanted: Wanted, wish: Wish) -> int:
    from wornpage.cli.edition_progress import Progress
    from wornpage.editions.index import write_index
    from wornpage.editions.pressing import folder_of, press_editions, standings, take_away

    begun = time.perf_counter()
    elsewhere = None
    if wish.workers_at is not None:
        from wornpage.press.cluster import press_on_cluster

        elsewhere = partial(press_on_cluster, address=wish.workers_at)
    tally = _Tally(keep=wanted.as_json)
    with Progress(len(edited.chosen), silent=wanted.as_json) as progress:
        for report in press_editions(choice, edited, progress.at, wish.jobs, elsewhere):
            progress.done(report.edition, report)
            tally.add(report)
    if not (choice.patterns or choice.where or tally.failed):
        for name in take_away(edited):
            say(f"taken away: {name}, which is no edition of this page any more")
    index: Path | None = None
    problems: tuple[Problem, ...] = ()
    try:
        index = write_index(edited, standings(edited, choice.given))
    except PageError as error:  # what came of the editions is told all the same
        problems = error.problems
    if wanted.as_json:
        _print_json(tally.reports, index, problems)
    else:
        shown = (choice.folder or folder_of(choice.page)) / index.name if index else None
        tally.tell(shown, problems, time.perf_counter() - begun)
    if wanted.then_open and index:
        open_file(index)
    return 1 if tally.failed or problems else 0


class _Tally:
    """What came of the editions; reports are kept of those that failed, or of all, and each warning once."""

    def __init__(self, keep: bool) -> None:
        self._keep = keep
        self.reports: list[Report] = []
        self.warnings: dict[Problem, list[str]] = {}
        """Each with the editions it was told of."""
        self.pressed = self.right = self.failed = 0

    def add(self, report: Report) -> None:
        """Count one."""
        if report.failed:
            self.failed += 1
        elif report.is_unchanged:
            self.right += 1
        else:
            self.pressed += 1
        if self._keep or report.failed:
            self.reports.append(report)
        for problem in report.problems:
            if problem.severity != "error":
                self.warnings.setdefault(problem, []).append(report.edition)

    def tell(self, index: Path | None, problems: Iterable[Problem], took: float) -> None:
        """Failures and the count on standard error, the index on standard output; `problems` are those of the index."""
        self._tell_failures()
        self._tell_warnings()
        say_problems(problems)
        if index:
            print(index)
        counts = [f"{self.pressed} pressed", f"{self.right} already right", f"{self.failed} failed"]
        shown = [count for count in counts if not count.startswith("0 ")] or ["no editions"]
        say(f"editions: {', '.join(shown)}, {seconds(took)}")

    def _tell_failures(self) -> None:
        """What failed; editions that failed alike are told together."""
        alike: dict[tuple[Problem, ...], list[str]] = {}
        for report in self.reports:
            alike.setdefault(tuple(p for p in report.problems if p.severity == "error"), []).append(report.edition)
        for problems, names in list(alike.items())[:_TOLD]:
            say(f"failed: {_few(names)}")
            say_problems(problems)
        if len(alike) > _TOLD:
            rest = sum(len(names) for names in list(alike.values())[_TOLD:])
            say(f"… and {rest} more failed, each in its own way; see them with --json.")

    def _tell_warnings(self) -> None:
        """Each once, with the editions it is of where it is not of all."""
        all_of_them = self.pressed + self.failed
        for problem, names in sorted(self.warnings.items(), key=lambda pair: pair[0].span)[:_TOLD]:
            where = f"in {_few(names)}: " if len(names) < all_of_them else ""
            say_problems([replace(problem, what=where + problem.what)])
        if len(self.warnings) > _TOLD:
            say(f"… and {len(self.warnings) - _TOLD} more warnings; see them with --json.")


def _few(names: list[str]) -> str:
    """The first of them, and how many more there are."""
    return ", ".join(names[:5]) + (f" and {len(names) - 5} more" if len(names) > 5 else "")


def _print_json(reports: Iterable[Report], index: Path | None, problems: Iterable[Problem]) -> None:
    data = {
        "editions": [_data(report) for report in reports],
        "index": str(index) if index else None,
        "problems": [problem.to_data() for problem in problems],
    }
    print(json.dumps(data, ensure_ascii=False, indent=2))


def _data(report: Report) -> dict[str, object]:
    return {
        "name": report.edition,
        "outcome": "failed" if report.failed else "unchanged" if report.is_unchanged else "pressed",
        "outputs": [{"kind": one.kind, "path": one.path, "written": one.written} for one in report.outputs],
        "chunks": {"ran": report.ran, "reused": report.reused},
        "seconds": round(report.seconds, 6),
        "headline": report.headline,
        "problems": [problem.to_data() for problem in report.problems],
    }
