"""How many digits a number is shown with where nobody has asked for a form: those that it has.

A number that someone wrote or counted, such as 125001.74, has few digits, and they are all shown. One that was
computed, such as a third, has as many as the machine holds; of it six count, and whoever looks closer finds the rest.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

SIGNIFICANT = 6
"""Digits that are shown of a number that goes on and on."""
_LEAST = 3
"""Digits that are shown of the smallest of several such numbers."""
_EXACT = 12
"""Digits beyond which two numbers are told apart by noise alone: 0.1 + 0.2 is 0.3."""
_WRITTEN = 5
"""Places that someone may have written; a number with more of them was computed."""
_MOST = 9
"""Places of a column; beyond, its numbers are too far apart to stand on one decimal mark."""
SMALLEST, LARGEST = 1e-5, 1e15
"""Between them a number is written out; beyond, as a power of ten."""


def places_of(value: float) -> int:
    """Decimal places that a finite number is shown with."""
    own = _own_places(value)
    return own if own <= _WRITTEN else min(own, _places_for(value, SIGNIFICANT))


def _places_for(value: float, digits: int) -> int:
    """The places at which so many digits of a number are shown."""
    return max(0, digits - 1 - math.floor(math.log10(abs(value))))


def _own_places(value: float) -> int:
    """The places that a number has, without the noise behind its twelfth digit."""
    return len(f"{value:.{_places_for(value, _EXACT)}f}".rstrip("0").partition(".")[2]) if value else 0


def common_places(values: Iterable[float]) -> int | None:
    """Places for several finite numbers, one below the other; None if they are too far apart for that.

    Each that someone wrote shows its digits. Those that were computed show three digits, and
    six where the column's largest number does.
    """
    known = [abs(value) for value in values if value]
    if not known:
        return 0
    if max(known) >= LARGEST or min(known) < SMALLEST * 1e-4:
        return None
    owned = [(_own_places(value), value) for value in known]
    computed = [value for own, value in owned if own > _WRITTEN]
    most = max((own for own, _ in owned if own <= _WRITTEN), default=0)
    if computed:
        most = max(most, _places_for(max(known), SIGNIFICANT), _places_for(min(computed), _LEAST))
    return most if most <= _MOST else None


def is_rounded(value: float, shown: float) -> bool:
    """Whether a number has more digits than what is shown of it, noise aside."""
    return not math.isclose(shown, value, rel_tol=10.0 ** (1 - _EXACT), abs_tol=0.0)
