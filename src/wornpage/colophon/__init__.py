"""The record of how a pressing was made, and comparing another with it."""

from wornpage.colophon.compare import differences
from wornpage.colophon.record import Colophon, colophon_of, read_record, with_fonts
from wornpage.colophon.shown import colophon_blocks

__all__ = ["Colophon", "colophon_blocks", "colophon_of", "differences", "read_record", "with_fonts"]
