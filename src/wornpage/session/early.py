"""A session started before it is known what it will do: Python starts there while the page is read here."""

from __future__ import annotations

import re
from pathlib import Path

from wornpage.session.language import Session
from wornpage.session.languages import known, language_of
from wornpage.session.python.environments import OWN, choose, current
from wornpage.store.addresses import digest
from wornpage.store.place import own_name, store_of

_LIKELIEST = "python"
"""The language that most pages begin with."""
_CHUNK = re.compile(r"^[ \t>]*(?:`{3,}|~{3,})[ \t]*(\w+)[ \t](?:[^\n]*[ \t])?run\b", re.MULTILINE)
_LOOKED_AT = 100_000
"""Bytes at the top of a page in which its first chunk is looked for."""


def early_session(page: Path, afresh: bool) -> Early | None:
    """A session in waiting for a page that will need one; None if perhaps nothing runs."""
    return Early(page) if afresh or not _is_file(store_of(page) / "last" / f"{digest(own_name(page))}.last") else None


def _is_file(path: Path) -> bool:
    try:
        return path.is_file()
    except OSError:
        return False


def _first_language(page: Path) -> str:
    """The language of the first chunk, as far as the top of the page tells; it must be one whose session is a process."""
    try:
        with page.open(encoding="utf-8", errors="replace") as file:
            first = _CHUNK.search(file.read(_LOOKED_AT))
    except OSError:
        return _LIKELIEST
    language = language_of(first[1]) if first else None
    return language.name if language is not None and language.has_values and not language.trouble else _LIKELIEST


class Early:
    """A session in waiting; the first who needs one takes it."""

    def __init__(self, page: Path) -> None:
        choose(OWN, ())  # what the page's settings say is not known yet
        self._language = _first_language(page)
        self._session: Session | None = known(self._language).start(None) if _is_file(page) else None

    def take(self, language: str, threads: int | None) -> Session | None:
        """The session, if it was started the way that is wanted."""
        if threads is not None or language != self._language or (language == _LIKELIEST and not current().is_own):
            return None
        session, self._session = self._session, None
        return session

    def close(self) -> None:
        """End the session if nobody took it."""
        if self._session is not None:
            self._session.close()
        self._session = None
