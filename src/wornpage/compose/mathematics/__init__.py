"""LaTeX notation to the mathematics tree, and the tree to words."""

from wornpage.compose.mathematics.reader import MathFault, read_formula
from wornpage.compose.mathematics.spoken import spoken

__all__ = ["MathFault", "read_formula", "spoken"]
