"""Modules of the project are compiled from their source in every session.

Python takes what it once compiled as long as the source has the size and the second of then: an edit within that second, or
one by a tool that puts the time back, would go unseen.
"""

from __future__ import annotations

import ast
import os
from collections.abc import Mapping
from importlib.machinery import SourceFileLoader
from typing import Any

from wornpage.session.python.marking import compile_telling
from wornpage.session.python.modules import is_the_projects


def compile_anew() -> None:
    """Have no compiled file used, or written, for what the author edits; installed packages keep theirs."""
    told, to_code = SourceFileLoader.path_stats, SourceFileLoader.source_to_code

    def path_stats(self: SourceFileLoader, path: str) -> Mapping[str, float]:
        if is_the_projects(path):
            raise OSError("compiled from its source each time")  # Python then does just that
        return told(self, path)

    def source_to_code(self: SourceFileLoader, data: Any, path: Any, **more: Any) -> object:
        if isinstance(data, (bytes, str)) and is_the_projects(os.fspath(path)):
            return compile_telling(ast.parse(data, path), path, "exec")
        return to_code(self, data, path, **more)

    SourceFileLoader.path_stats = path_stats  # type: ignore[method-assign]
    SourceFileLoader.source_to_code = source_to_code  # type: ignore[method-assign,assignment]
