"""Databases behind an address, by their DB-API drivers."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping
from typing import Any
from urllib.parse import unquote, urlsplit

from wornpage.session.sql.database import Database, SqlFault, first_line, placed
from wornpage.session.sql.rows import frame_of, simple
from wornpage.session.sql.statements import Statement


class Server(Database):
    """A database behind an address, by its DB-API driver. What it holds may be changed by others at any time."""

    is_known = False

    def __init__(self, url: str, connect: Callable[[], Any], errors: Any) -> None:
        self.url, self._errors = url, errors
        try:
            self._con = connect()
        except errors as error:
            raise SqlFault(without_password(first_line(str(error)), url)) from None

    def run(self, statement: Statement, values: Mapping[str, object]) -> Any:
        text = statement.text.replace("%", "%%") if statement.asked else statement.text
        shifted = statement._replace(text=text, asked=_shifted(statement)) if statement.asked else statement
        wanted = {one.name: simple(values[one.name]) for one in statement.asked}
        cursor = self._con.cursor()
        try:
            cursor.execute(shifted.with_values("%({})s"), wanted or None)
            if cursor.description is None:
                return None
            return frame_of(cursor.fetchall(), [column[0] for column in cursor.description])
        except self._errors as error:
            raise _of_server(error, statement) from None

    def begin_anew(self) -> None:
        """See what holds now, and no longer what held when it was last asked."""
        self._con.rollback()

    def state(self, probe: str) -> str:
        """What tells that all is as it was: the answer to the author's question; empty for nothing. Raises `SqlFault`."""
        return self._answer(probe) if probe else ""

    def changes_unseen(self, words: Iterable[str]) -> str:
        """A function among these words that gives another value each time; empty for none."""
        return ""

    def _answer(self, question: str) -> str:
        cursor = self._con.cursor()
        try:
            cursor.execute(question)
            return repr(cursor.fetchall())
        except self._errors as error:
            raise SqlFault(f"reads-state: {without_password(first_line(str(error)), self.url)}") from None

    def close(self) -> None:
        self._con.commit()
        self._con.close()


class Postgres(Server):
    """PostgreSQL, which says by its snapshot whether anything was written since: nobody writes, and nobody has begun to."""

    def state(self, probe: str) -> str:
        if probe:
            return self._answer(probe)
        told = (
            "select current_database(), pg_postmaster_start_time()::text, pg_current_snapshot()::text, "
            "(select count(*) from pg_foreign_table)"
        )
        cursor = self._con.cursor()
        cursor.execute(told)
        name, started, snapshot, foreign = cursor.fetchone()
        oldest, newest, _ = snapshot.split(":")
        return f"{name} {started} {snapshot}" if oldest == newest and not foreign else ""

    def changes_unseen(self, words: Iterable[str]) -> str:
        cursor = self._con.cursor()
        cursor.execute(
            "select proname from pg_proc where provolatile = 'v' and proname = any(%s) limit 1",
            (sorted(map(str.lower, words)),),
        )
        found = cursor.fetchone()
        return str(found[0]) if found else ""


def postgres(url: str) -> Database:
    """PostgreSQL at an address. Raises `ImportError`, `SqlFault`."""
    import psycopg

    def connect() -> Any:
        # What is read is as it was at one moment, however long it takes.
        options = "-c default_transaction_isolation=repeatable\\ read -c TimeZone=UTC -c max_parallel_workers_per_gather=0 -c extra_float_digits=3"
        return psycopg.connect(url, options=options, connect_timeout=10)

    return Postgres(url, connect, psycopg.Error)


def mysql(url: str) -> Database:
    """MySQL or MariaDB at an address. Raises `ImportError`, `SqlFault`."""
    import pymysql

    parts = urlsplit(url)

    def connect() -> Any:
        return pymysql.connect(
            host=parts.hostname or "localhost", port=parts.port or 3306, user=unquote(parts.username or ""),
            password=unquote(parts.password or os.environ.get("MYSQL_PWD", "")), database=parts.path.removeprefix("/"), connect_timeout=10,
        )  # fmt: skip

    return Server(url, connect, pymysql.Error)


def without_password(words: str, url: str) -> str:
    """Words in which no password of an address stands."""
    password = urlsplit(url).password
    return words.replace(password, "…") if password else words


def _shifted(statement: Statement) -> Any:
    """Where values are asked for once every percent sign before them is doubled."""
    return tuple(one._replace(start=one.start + statement.text.count("%", 0, one.start)) for one in statement.asked)


def _of_server(error: Any, statement: Statement) -> SqlFault:
    told = getattr(error, "diag", None)
    message = getattr(told, "message_primary", None) or first_line(str(error))
    hint = getattr(told, "message_hint", None)
    words = f"{message}. {hint}" if hint else message
    position = getattr(told, "statement_position", None)
    if position and not statement.asked:
        return SqlFault(words, int(position) - 1)
    fault = placed(str(error), statement)
    return SqlFault(words, fault.offset)
