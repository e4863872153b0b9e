"""What was pressed for readers: kept in the store, the oldest let go of, and the line of those who wait, kept over a restart."""

from __future__ import annotations

import json
import os
import secrets
import shutil
import threading
import time
from contextlib import suppress
from pathlib import Path

from wornpage.desk.wishes import Wish
from wornpage.desk.work import remembered_as
from wornpage.plan import manifest
from wornpage.plan.reasons import last_file
from wornpage.store.place import make_store, store_of, write_whole
from wornpage.tree.files import as_json

_MOST = 300
"""Results of one project that are kept."""
_OF = "of"
"""The file beside a result that names its page; changed whenever the result is asked for."""


class Results:
    """Where they lie: beside what is kept of the pages, in each one's project."""

    def __init__(self, first: Path) -> None:
        """`first` is the page in whose project the desk itself keeps what it must know after a restart."""
        self._home = store_of(first) / "desk"
        self._lock = threading.Lock()

    def folder(self, page: Path, wish: Wish) -> Path:
        """Where the files of a wish go."""
        return store_of(page) / "desk" / wish.place

    def file(self, page: Path, place: str, suffix: str) -> Path:
        """A file that was made."""
        return store_of(page) / "desk" / place / f"{page.stem}{suffix}"

    def keep(self, page: Path, place: str) -> None:
        """These were just made, or asked for again: where there are too many, those go that were asked for longest ago."""
        whole = store_of(page) / "desk"
        told = whole / place / _OF
        with suppress(OSError):
            os.utime(told)
            return
        with suppress(OSError):
            write_whole(told, str(page).encode())
        with self._lock:
            made = [one for one in whole.iterdir() if one.is_dir()] if whole.is_dir() else []
            if len(made) <= _MOST:
                return
            made.sort(key=_age, reverse=True)
            for one in made[: len(made) - _MOST]:
                self._forget(one)

    def _forget(self, folder: Path) -> None:
        """Drop a result, and what was remembered of how it was made; what its chunks came to stays in the store by its own law."""
        with suppress(OSError):
            page, memory = Path((folder / _OF).read_text()), remembered_as(folder.name)
            manifest.forget(page, memory)
            last_file(store_of(page), page, memory).unlink(missing_ok=True)
        shutil.rmtree(folder, ignore_errors=True)

    # --- over a restart -------------------------------------------------------------------------

    def key(self) -> bytes:
        """A secret of this desk, the same after a restart; a new one each time where nothing can be kept."""
        path = self._home / "secret"
        with suppress(OSError, ValueError):
            found = bytes.fromhex(path.read_text())
            if len(found) == 32:
                return found
        made = secrets.token_bytes(32)
        if self._make_home():
            with suppress(OSError):
                write_whole(path, made.hex().encode())
                path.chmod(0o600)
        return made

    def new_key(self) -> None:
        """Forget the secret: addresses and logins that hang on it end."""
        (self._home / "secret").unlink(missing_ok=True)

    def save_line(self, wishes: list[tuple[Wish, str]]) -> None:
        """Keep what waits."""
        data = [{"page": wish.page, "given": wish.given, "kinds": wish.kinds, "person": who} for wish, who in wishes]
        if self._make_home():
            with suppress(OSError):
                write_whole(self._home / "line.json", as_json(json.dumps(data)))

    def saved_line(self) -> list[tuple[Wish, str]]:
        """What waited when the desk ended; nothing where that cannot be read."""
        try:
            data = json.loads((self._home / "line.json").read_text())
            return [
                (Wish(str(one["page"]), dict(one["given"]), tuple(one["kinds"])), str(one["person"])) for one in data
            ]
        except (OSError, ValueError, TypeError, KeyError):
            return []

    def _make_home(self) -> bool:
        if not make_store(self._home.parent):
            return False
        with suppress(OSError):
            self._home.mkdir(exist_ok=True)
        return self._home.is_dir()


def _age(folder: Path) -> float:
    try:
        return time.time() - (folder / _OF).stat().st_mtime
    except OSError:
        return 0.0
