"""R, as a language of chunks."""

from __future__ import annotations

from collections.abc import Sequence

from wornpage.session.language import CodeReader, Fault, Session
from wornpage.session.r.code import RCode
from wornpage.session.r.where import PROGRAM, program, version
from wornpage.store.programs import called


class R:
    """Sessions are processes of R; nothing but R itself is needed in it."""

    name = home = "r"
    fences = ("r", "R")
    suffixes = (".R", ".r")
    comment = "#"
    has_values = True
    beforehand = "spare"
    code: CodeReader = RCode()

    @property
    def version(self) -> str:
        """Which R it is: with another nothing made before is reused."""
        return version()

    @property
    def trouble(self) -> str:
        """Without the program there is no session."""
        if program():
            return ""
        return (
            f"there is no program {called(PROGRAM)!r} on this machine\n"
            "Install R 4.2 or later (on Debian and Ubuntu: `apt install r-base-core`), and have it on the path, or say where it is: `r: {program: …}`."
        )

    def faults(self, codes: Sequence[tuple[str, str]]) -> Sequence[Fault]:
        """As R itself reads it."""
        from wornpage.session.r.checking import faults

        return faults(codes)

    def start(self, threads: int | None) -> Session:
        """A process that has started, and waits."""
        from wornpage.session.r.session import RSession

        return RSession(threads)


LANGUAGE = R()
