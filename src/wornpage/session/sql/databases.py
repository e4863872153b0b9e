"""Which database an address stands for. Each driver is imported where it is needed, in the session."""

from __future__ import annotations

import os
import re
from collections.abc import Callable
from urllib.parse import urlsplit

from wornpage.session.sql.database import Database, SqlFault
from wornpage.session.sql.duck import Duck
from wornpage.session.sql.lite import Lite
from wornpage.session.sql.server import mysql, postgres

_SERVERS: dict[str, tuple[str, Callable[[str], Database]]] = {
    "postgresql": ("psycopg", postgres), "postgres": ("psycopg", postgres), "mysql": ("pymysql", mysql), "mariadb": ("pymysql", mysql),
}  # fmt: skip
"""By the scheme of an address: the package of the driver, and what opens it."""
_DUCK = re.compile(r"\.(?:duckdb|ddb)$", re.IGNORECASE)
_LITE = re.compile(r"\.(?:sqlite3?|db3?|gpkg)$", re.IGNORECASE)


def open_database(address: str, folder: str, writes: bool) -> Database:
    """The database of an address: a file, `memory`, or a URL. Raises `SqlFault`."""
    if address in {"", "memory", ":memory:"}:
        return _with_driver(lambda: Duck("", writes=True), "duckdb")
    parts = urlsplit(address)
    if "://" in address and parts.scheme in {"sqlite", "duckdb"}:
        address = (parts.netloc + parts.path).removeprefix("/") if not parts.netloc else parts.netloc + parts.path
    elif "://" in address:
        return _server(address, parts.scheme.partition("+")[0])
    path = os.path.join(folder, address)
    if not writes and not os.path.exists(path):
        raise SqlFault(f"there is no database {address!r}")
    if parts.scheme == "duckdb" or (_DUCK.search(address) and parts.scheme != "sqlite"):
        return _with_driver(lambda: Duck(path, writes), "duckdb")
    if parts.scheme == "sqlite" or _LITE.search(address) or _begins_as_lite(path):
        return Lite(path, writes)
    return _with_driver(lambda: Duck(path, writes), "duckdb")


def _begins_as_lite(path: str) -> bool:
    try:
        with open(path, "rb") as file:
            return file.read(15) == b"SQLite format 3"
    except OSError:
        return False


def _with_driver(make: Callable[[], Database], package: str) -> Database:
    try:
        return make()
    except ImportError:
        raise SqlFault(
            f"this database needs the package {package!r}, which is not installed where this page runs"
        ) from None


def _server(url: str, scheme: str) -> Database:
    if scheme not in _SERVERS:
        raise SqlFault(f"there is no driver for {scheme!r}; there are: sqlite, duckdb, {', '.join(_SERVERS)}")
    package, opens = _SERVERS[scheme]
    return _with_driver(lambda: opens(url), package)
