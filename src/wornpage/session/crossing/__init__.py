"""Values on their way from one language to the next, in R's serialization: what it has a form for goes exactly, all else is refused.

A column of words may be told by its different words and numbers that point to them, as a list of the class `worn_words`.
"""

from __future__ import annotations


class CannotCross(Exception):
    """A value, or a part of it, that the other language has nothing for; the message says which and why."""
