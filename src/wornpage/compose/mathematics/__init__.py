"""LaTeX notation to the mathematics tree, and the tree to words."""

from wornpage.compose.mathematics.reader import MathFault, read_formula
from wornpage.compose.mathematics.spoken import spoken
from wornpage.compose.mathematics.written import formula_in, read_written

__all__ = ["MathFault", "formula_in", "read_formula", "read_written", "spoken"]
