"""One page, many sets of given values: which there are, pressing them side by side, and the index of what came of it."""

from wornpage.choices.sets import Edition, editions_of

__all__ = ["Edition", "editions_of"]
