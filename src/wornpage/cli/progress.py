"""How a pressing gets on, chunk by chunk, on standard error."""

from __future__ import annotations

import sys

from wornpage.cli.say import is_coloured, say, seconds
from wornpage.plan.record import ChunkOutcome
from wornpage.tree.nodes import Chunk


class TerminalReporter:
    """A line for each chunk that ran; in a terminal also one, overwritten, for the chunk that is running."""

    def __init__(self) -> None:
        self._live = is_coloured()

    def started(self, chunk: Chunk, number: int, total: int) -> None:
        """Name the chunk that runs now."""
        if self._live:
            sys.stderr.write(f"\r\x1b[2K  {number}/{total}  {chunk.label} …")
            sys.stderr.flush()

    def tallied(self, chunk: Chunk, name: str, done: int, total: int) -> None:
        """Say in a terminal how far a chunk has come."""
        if self._live:
            of = f" of {total:,} ({100 * done // total} %)" if total else ""
            sys.stderr.write(f"\r\x1b[2K  {chunk.label}: {name + ' ' if name else ''}{done:,}{of} …")
            sys.stderr.flush()

    def finished(self, outcome: ChunkOutcome, number: int, total: int) -> None:
        """Say what became of a chunk."""
        if self._live:
            sys.stderr.write("\r\x1b[2K")
        width = len(str(total))
        what = f"had from {outcome.whose}, who ran it" if outcome.whose else str(outcome.outcome)
        say(f"  {number:>{width}}/{total}  {outcome.label:<22} {what} in {seconds(outcome.seconds)}")
