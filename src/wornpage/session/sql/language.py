"""SQL, as a language of chunks."""

from __future__ import annotations

from collections.abc import Sequence

from wornpage.session.language import CodeReader, Fault, Session
from wornpage.session.sql.code import SqlCode


class Sql:
    """Its chunks run in the sessions of Python, where its connections are, and where what it finds is a frame."""

    name = "sql"
    home = "python"
    fences = ("sql",)
    suffixes = (".sql",)
    comment = "--"
    has_values = False
    beforehand = "fork"
    trouble = ""
    code: CodeReader = SqlCode()

    @property
    def version(self) -> str:
        """That of Python: a database is known by its own version where it is read."""
        from wornpage.session.languages import known

        return known(self.home).version

    def faults(self, codes: Sequence[tuple[str, str]]) -> Sequence[Fault]:
        """Nothing is told: only the database knows."""
        return ()

    def start(self, threads: int | None) -> Session:
        """A session of Python."""
        from wornpage.session.languages import known

        return known(self.home).start(threads)


LANGUAGE = Sql()
