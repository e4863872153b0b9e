"""Those who press, with processes that do as they are told here: ended, late, dead and stubborn."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase, mock

from msgspec.structs import replace

from wornpage.desk.hands import Hands
from wornpage.desk.line import Line, Ticket
from wornpage.desk.wishes import Wish
from wornpage.desk.work import Report, Task
from wornpage.press.crew import WorkerDied


class Shelf:
    """One page, which says how long its reports may take."""

    seconds: float | None = 30.0

    def path(self, key: str) -> Path:
        """Where it is."""
        return Path("/nowhere/page.md")

    def offer(self, key: str) -> object:
        """What it says."""
        return mock.Mock(seconds=self.seconds)


class Process:
    """Stands for a process: what it does is what the wish says."""

    started: list[Process] = []

    def __init__(self, trade: object, beside: int) -> None:
        self.interrupted, self.killed, self.is_old = threading.Event(), threading.Event(), False
        Process.started.append(self)

    def press(self, task: Task) -> Iterator[str | Report]:
        """Do it."""
        match task.given["does"]:
            case "waits":
                self.interrupted.wait(20)
                yield Report(stopped=True)
            case "does not end":
                self.killed.wait(20)
                raise WorkerDied("it was killed")
            case "dies":
                raise WorkerDied("signal 11 ended it")
            case "breaks":
                raise ZeroDivisionError("a mistake of ours")
            case _:
                yield "1 2 0 0"
                yield Report({"html": "made"})

    def interrupt(self) -> None:
        """It is asked to end."""
        self.interrupted.set()

    def kill(self) -> None:
        """It is ended."""
        self.killed.set()

    def close(self) -> None:
        """Nothing more is asked."""

    stop = close


class Pressing(TestCase):
    def setUp(self) -> None:
        Process.started = []
        for name, value in (("Worker", Process), ("_PATIENCE", 0.4), ("_GLANCE", 0.05)):
            patch = mock.patch(f"wornpage.desk.hands.{name}", value)
            patch.start()
            self.addCleanup(patch.stop)
        self.line, self.shelf, self.results = Line(), Shelf(), mock.Mock()
        self.heard: list[tuple[Ticket, Report]] = []
        self.results.folder.return_value = Path("/nowhere/made")

    def pressed(self, *does: str, then: str = "") -> list[Report]:
        """What comes of wishes, one after the other; whoever waits for the first leaves in its midst if `then` says so."""
        hands = Hands(self.line, self.shelf, self.results, 1, lambda *told: self.heard.append(told))  # type: ignore[arg-type]
        for at, one in enumerate(does):
            self.line.join(Wish("page", {"does": one, "n": at}), "ann", f"tab {at}")
        if then == "leave":
            self.until(lambda: self.line.count()[0] == 1 and bool(Process.started))
            self.line.leave("tab 0")
        self.until(lambda: len(self.heard) == len(does))
        self.line.close()
        hands.close()
        return [report for _, report in self.heard]

    def until(self, holds: object) -> None:
        """Wait for it, not for ever."""
        end = time.monotonic() + 10
        while not holds():  # type: ignore[operator]
            self.assertLess(time.monotonic(), end)
            time.sleep(0.01)

    def test_one_process_serves_wish_after_wish_and_what_it_made_is_kept(self) -> None:
        reports = self.pressed("well", "well", "well")
        self.assertEqual([one.failed for one in reports], [False] * 3)
        self.assertEqual(len(Process.started), 1)
        self.assertEqual(self.results.keep.call_count, 3)

    def test_what_nobody_wants_is_asked_to_end_and_the_next_is_served_by_the_same_process(self) -> None:
        first, second = self.pressed("waits", "well", then="leave")
        self.assertEqual((first.stopped, first.failed, second.failed), (True, False, False))
        self.assertEqual(len(Process.started), 1)
        self.assertEqual(self.results.keep.call_count, 1)

    def test_what_does_not_end_when_asked_is_ended(self) -> None:
        first, second = self.pressed("does not end", "well", then="leave")
        self.assertTrue(first.stopped and not second.failed)
        self.assertEqual([one.killed.is_set() for one in Process.started], [True, False])

    def test_what_takes_longer_than_the_page_allows_is_told_so(self) -> None:
        self.shelf.seconds = 0.2
        for does in ("waits", "does not end"):
            (report,) = self.pressed(does)
            self.assertTrue(report.failed and report.is_too_long)
            self.assertIn("limits", report.problems[0].hint)
            self.line, self.heard = Line(), []

    def test_the_time_of_one_is_not_counted_for_the_next(self) -> None:
        self.shelf.seconds = 0.3
        reports = self.pressed("well", "waits", "well")
        self.assertEqual([one.is_too_long for one in reports], [False, True, False])

    def test_a_process_that_dies_again_and_again_is_given_up_and_told(self) -> None:
        dead, well = self.pressed("dies", "well")
        self.assertIn("signal 11", dead.problems[0].what)
        self.assertTrue(dead.failed and not dead.is_too_long and not well.failed)

    def test_a_mistake_of_ours_ends_one_wish_alone_and_is_called_ours(self) -> None:
        broken, well = self.pressed("breaks", "well")
        self.assertFalse(well.failed)
        (problem,) = broken.problems
        self.assertIn("ZeroDivisionError", problem.what + problem.hint)
        self.assertEqual(problem.span.file, "page.md")

    def test_a_wish_that_ends_before_it_begins_is_not_pressed(self) -> None:
        leaving = mock.Mock(side_effect=lambda key: self.line.leave("tab 0") or mock.Mock(seconds=None))
        with mock.patch.object(Shelf, "offer", leaving):
            (report,) = self.pressed("waits")
        self.assertEqual((report, Process.started), (replace(Report(), stopped=True), []))
