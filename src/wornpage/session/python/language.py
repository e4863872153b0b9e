"""Python, as a language of chunks."""

from __future__ import annotations

from collections.abc import Sequence

from wornpage.session.language import CodeReader, Fault, Session
from wornpage.session.python.environments import current
from wornpage.session.python.reading import PythonCode


class Python:
    """Sessions are processes of the interpreter that runs Worn Page."""

    name = home = "python"
    fences = ("python", "py")
    suffixes = (".py",)
    comment = "#"
    has_values = True
    beforehand = "fork"
    code: CodeReader = PythonCode()

    @property
    def trouble(self) -> str:
        """Why the page's own Python cannot be had; empty for nothing."""
        return current().trouble

    @property
    def version(self) -> str:
        """Which Python it is."""
        return current().identity

    def faults(self, codes: Sequence[tuple[str, str]]) -> Sequence[Fault]:
        """Python is read where pages are checked."""
        return ()

    def start(self, threads: int | None) -> Session:
        """A process that has started, and waits."""
        from wornpage.session.process import ProcessSession

        return ProcessSession(threads)


LANGUAGE = Python()
