"""The walk over a page's chunks: what must run, running it, and the record of it."""

from wornpage.plan.record import ChunkOutcome, MarkOutcome, Outcome, Record, Reporter, SilentReporter, reads_of
from wornpage.plan.walk import run_page

__all__ = ["ChunkOutcome", "MarkOutcome", "Outcome", "Record", "Reporter", "SilentReporter", "reads_of", "run_page"]
