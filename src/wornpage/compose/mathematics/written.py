"""Formulas as an author writes them in a page: read, with what is wrong at its own place."""

from __future__ import annotations

import re
from collections.abc import Mapping

from wornpage.compose.mathematics.reader import MathFault, read_formula
from wornpage.tree.formula import Formula
from wornpage.tree.nodes import RawMath, RawMathBlock
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span

_COMMAND = re.compile(r"\\[A-Za-z]+(\{[^{}]*\})?")
_WORD = re.compile(r"(?<![A-Za-z])[A-Za-z]{3,}(?![A-Za-z({])")


def read_written(math: RawMath | RawMathBlock, macros: Mapping[str, str]) -> tuple[Formula | None, list[Problem]]:
    """The formula, None where it cannot be read; and what is to be said of it."""
    is_block = isinstance(math, RawMathBlock)
    try:
        formula = read_formula(math.latex, macros)
    except MathFault as fault:
        return None, [_problem(fault, math.latex, math.span, 2 if is_block else 1)]
    if is_block or not _reads_as_prices(math.latex):
        return formula, []
    what = f"what stands between two dollar signs is taken for a formula: `{math.latex[:60]}`."
    return formula, [Problem(math.span, what, "Write `\\$` for the sign of a price.", Severity.WARNING)]


def formula_in(latex: str) -> Formula | None:
    """The formula that a library has written, not the author; None where it has what is not known here."""
    try:
        return read_formula(latex, {})
    except MathFault:
        return None


def _problem(fault: MathFault, latex: str, span: Span, dollars: int) -> Problem:
    """The fault at its own place inside the formula."""
    before = latex[: fault.offset]
    line = span.line + before.count("\n")
    column = fault.offset - before.rfind("\n") if "\n" in before else span.column + dollars + fault.offset
    return Problem(span.at(line, column), fault.what, fault.hint)


def _reads_as_prices(latex: str) -> bool:
    """Whether a formula begins with a sum and goes on in words, as `$5 each, and not 10$` does."""
    if not latex[:1].isdigit():
        return False
    plain = _COMMAND.sub(" ", latex)
    return '"' in plain or len(_WORD.findall(plain)) > 1
