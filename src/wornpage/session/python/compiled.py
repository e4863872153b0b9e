"""Modules of the project are compiled from their source in every session.

Python takes what it once compiled as long as the source has the size and the second of then: an edit within that second, or
one by a tool that puts the time back, would go unseen.
"""

from __future__ import annotations

from collections.abc import Mapping
from importlib.machinery import SourceFileLoader

from wornpage.session.python.modules import is_the_projects


def compile_anew() -> None:
    """Have no compiled file used, or written, for what the author edits; installed packages keep theirs."""
    told = SourceFileLoader.path_stats

    def path_stats(self: SourceFileLoader, path: str) -> Mapping[str, float]:
        if is_the_projects(path):
            raise OSError("compiled from its source each time")  # Python then does just that
        return told(self, path)

    SourceFileLoader.path_stats = path_stats  # type: ignore[method-assign]
