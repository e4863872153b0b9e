"""LaTeX notation to the mathematics tree, and the tree to words."""

from wornpage.compose.mathematics.reader import MathFault, read_formula
from wornpage.compose.mathematics.spoken import spoken
from wornpage.tree.formula import Formula


def formula_in(latex: str) -> Formula | None:
    """The formula that a library has written, not the author; None where it has what is not known here."""
    try:
        return read_formula(latex, {})
    except MathFault:
        return None


__all__ = ["MathFault", "formula_in", "read_formula", "spoken"]
