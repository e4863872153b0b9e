"""A session started before it is known what it will do: Python starts there while the page is read here."""

from __future__ import annotations

from pathlib import Path

from wornpage.session.language import Session
from wornpage.session.languages import known
from wornpage.store.addresses import digest
from wornpage.store.place import own_name, store_of

_LIKELIEST = "python"
"""The language that most pages begin with."""


def early_session(page: Path, afresh: bool) -> Early | None:
    """A session in waiting for a page that will need one; None if perhaps nothing runs."""
    return Early(page) if afresh or not _is_file(store_of(page) / "last" / f"{digest(own_name(page))}.last") else None


def _is_file(path: Path) -> bool:
    try:
        return path.is_file()
    except OSError:
        return False


class Early:
    """A session in waiting; the first who needs one takes it."""

    def __init__(self, page: Path) -> None:
        self._session: Session | None = known(_LIKELIEST).start(None) if _is_file(page) else None

    def take(self, language: str, threads: int | None) -> Session | None:
        """The session, if it was started the way that is wanted."""
        if threads is not None or language != _LIKELIEST:
            return None
        session, self._session = self._session, None
        return session

    def close(self) -> None:
        """End the session if nobody took it."""
        if self._session is not None:
            self._session.close()
        self._session = None
