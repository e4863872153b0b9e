"""The walk over a page's chunks: what must run, running it, and the record of it."""

from wornpage.plan.record import ChunkOutcome, Outcome, Record, Reporter, SilentReporter
from wornpage.plan.walk import run_page

__all__ = ["ChunkOutcome", "Outcome", "Record", "Reporter", "SilentReporter", "run_page"]
