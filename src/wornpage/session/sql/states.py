"""Whether what a server holds is as it was, asked from outside a session. Connections are kept as long as the process lives."""

from __future__ import annotations

import atexit
import json
from contextlib import suppress

from wornpage.session.sql.database import Database
from wornpage.session.sql.databases import open_database
from wornpage.session.sql.server import Server
from wornpage.store.addresses import digest

_open: dict[str, Database] = {}


def _close_all() -> None:
    """The process ends."""
    for database in _open.values():
        with suppress(Exception):
            database.close()


def state_now(told: str, folder: str) -> str:
    """What tells that a server is as it was: `told` is its address with a question, as JSON; `unreachable` if it does not answer."""
    address, probe = json.loads(told)
    for _ in range(2):  # a connection that was kept may have been cut
        try:
            database = _open.get(address) or open_database(address, folder, writes=False)
            if not _open:
                atexit.register(_close_all)
            _open[address] = database
            if not isinstance(database, Server):
                return "none"
            database.begin_anew()
            return digest(database.state(probe))
        except Exception:  # whatever a driver raises where there is nobody any more
            _open.pop(address, None)
    return "unreachable"
