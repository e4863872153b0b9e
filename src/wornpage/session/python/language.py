"""Python, as a language of chunks."""

from __future__ import annotations

import sys
from collections.abc import Sequence

from wornpage.session.language import CodeReader, Fault, Session
from wornpage.session.python.reading import PythonCode


class Python:
    """Sessions are processes of the interpreter that runs Worn Page."""

    name = home = "python"
    fences = ("python", "py")
    suffixes = (".py",)
    comment = "#"
    has_values = True
    trouble = ""
    version = sys.version
    code: CodeReader = PythonCode()

    def faults(self, codes: Sequence[tuple[str, str]]) -> Sequence[Fault]:
        """Python is read where pages are checked."""
        return ()

    def start(self, threads: int | None) -> Session:
        """A process that has started, and waits."""
        from wornpage.session.process import ProcessSession

        return ProcessSession(threads)


LANGUAGE = Python()
