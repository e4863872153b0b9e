"""How editions get on, on standard error: a live table in a terminal, else a line for each."""

from __future__ import annotations

from collections import deque
from typing import TYPE_CHECKING, Any, Protocol

from wornpage.cli.say import is_coloured, say, seconds

if TYPE_CHECKING:
    from rich.console import Group


_RECENT = 12
"""Editions shown that have come to their end."""


class Done(Protocol):
    """What came of one: an edition, or a page of a volume."""

    @property
    def failed(self) -> bool: ...
    @property
    def is_unchanged(self) -> bool: ...
    @property
    def seconds(self) -> float: ...
    @property
    def ran(self) -> int: ...
    @property
    def reused(self) -> int: ...


class Progress:
    """Use it with `with`; then tell it of everything that happens. `noun` is what each is called."""

    def __init__(self, total: int, silent: bool, noun: str = "edition") -> None:
        self._total, self._silent, self._noun = total, silent, noun
        self._reports: dict[str, Done] = {}
        self._at: dict[int, tuple[str, str]] = {}
        self._recent: deque[tuple[str, Done]] = deque(maxlen=_RECENT)
        self._live: Any = None

    def __enter__(self) -> Progress:
        if not self._silent and is_coloured():
            from rich.console import Console
            from rich.live import Live

            console = Console(stderr=True, highlight=False, emoji=False)
            self._live = Live(get_renderable=self._drawn, console=console, refresh_per_second=8, transient=True)
            self._live.start()
        return self

    def __exit__(self, *reason: object) -> None:
        if self._live is not None:
            self._live.stop()

    def at(self, place: int, edition: str, chunk: str) -> None:
        """The process at `place` is at `chunk` of an edition."""
        self._at[place] = (edition, chunk)

    def done(self, name: str, report: Done) -> None:
        """One has come to its end."""
        self._reports[name] = report
        self._recent.append((name, report))
        for place, (edition, _) in list(self._at.items()):
            if edition == name:
                del self._at[place]
        if not self._silent and (report.failed or not report.is_unchanged):
            self._tell(name, report)

    def _tell(self, name: str, report: Done) -> None:
        number = f"{len(self._reports):>{len(str(self._total))}}/{self._total}"
        line = f"  {number}  {name:<28} {_came_to(report)}"
        if self._live is None:
            say(line)
        elif report.failed:
            self._live.console.print(line, style="red")

    def _drawn(self) -> Group:
        from rich import box
        from rich.console import Group
        from rich.progress_bar import ProgressBar
        from rich.table import Table
        from rich.text import Text

        done = len(self._reports)
        failed = sum(one.failed for one in self._reports.values())
        right = sum(one.is_unchanged for one in self._reports.values())
        counts = Text.assemble(
            (f" {done}", "bold"), f" of {self._total} {self._noun}s   {done - failed - right} pressed, {right} already right, ",
            (f"{failed} failed", "red" if failed else ""),
        )  # fmt: skip
        table = Table(box=box.SIMPLE_HEAD, pad_edge=False)
        for head, width in (("", 1), (self._noun, 28), ("", 40)):
            table.add_column(head, min_width=width)
        for place in sorted(self._at):
            edition, chunk = self._at[place]
            table.add_row("▸", Text(edition, "bold"), Text(f"at {chunk}" if chunk else "…"))
        for name, report in reversed(self._recent):
            sign, colour = ("✗", "red") if report.failed else ("✓", "dim")
            table.add_row(sign, Text(name), Text(_came_to(report)), style=colour)
        bar = ProgressBar(
            total=max(self._total, 1), completed=done, width=74, complete_style="cyan", finished_style="cyan"
        )
        return Group(counts, bar, table)


def _came_to(report: Done) -> str:
    if report.is_unchanged:
        return "already right"
    words = "failed" if report.failed else f"pressed in {seconds(report.seconds)}"
    return words + (f"  ({report.ran} run, {report.reused} reused)" if report.ran + report.reused else "")
