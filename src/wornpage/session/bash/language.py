"""The shell, as a language of chunks."""

from __future__ import annotations

from collections.abc import Sequence

from wornpage.session.bash.code import BashCode
from wornpage.session.language import CodeReader, Fault, Session
from wornpage.store.programs import identity, where


class Bash:
    """One process a chunk."""

    name = home = "bash"
    fences = ("bash", "sh", "shell")
    suffixes = (".sh",)
    comment = "#"
    has_values = False
    beforehand = ""
    code: CodeReader = BashCode()

    @property
    def version(self) -> str:
        """Which file the program is."""
        return identity("bash")

    @property
    def trouble(self) -> str:
        """Without the program there is no session."""
        return (
            "" if where("bash") else "there is no program 'bash' on this machine\nInstall it, or leave the chunk out."
        )

    def faults(self, codes: Sequence[tuple[str, str]]) -> Sequence[Fault]:
        """Nothing is told."""
        return ()

    def start(self, threads: int | None) -> Session:
        """A session, which has nothing running."""
        from wornpage.session.bash.session import BashSession

        return BashSession(threads)


LANGUAGE = Bash()
