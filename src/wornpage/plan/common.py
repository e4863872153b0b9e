"""What a session has that was made for others to go on from."""

from __future__ import annotations

from wornpage.session.language import Session


class Common:
    """A session, the steps it stands after, and what it was told of names."""

    def __init__(
        self,
        session: Session,
        executed: list[int],
        sent: dict[str, tuple[str, str]],
        renamed: list[tuple[str, str, tuple[str, ...]]],
    ) -> None:
        self.session, self.executed, self.sent = session, executed, sent
        self.renamed = renamed
        """Old run, new run and names of each step that was replayed."""
        self.runs: tuple[str, ...] = ()
        """Which runs made the steps, by their traces."""
