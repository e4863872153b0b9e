"""Databases as a chunk sees them: statements in, frames out. Each driver is imported where it is needed, in the session."""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any
from urllib.parse import unquote, urlsplit

from wornpage.session.sql.statements import Statement, words_in

_MODULES = {"postgresql": "psycopg", "postgres": "psycopg", "mysql": "pymysql", "mariadb": "pymysql"}
_DUCK = re.compile(r"\.(?:duckdb|ddb)$", re.IGNORECASE)
_LITE = re.compile(r"\.(?:sqlite3?|db3?|gpkg)$", re.IGNORECASE)
_HUGE = frozenset({"HUGEINT", "UHUGEINT", "BIGNUM"})
_EXACT = 2**53


class SqlFault(Exception):
    """A database has refused a statement."""

    def __init__(self, message: str, offset: int | None = None) -> None:
        super().__init__(message)
        self.offset = offset
        """Letters of the statement before what is wrong, where the database says so."""


class Database:
    """What all have in common."""

    files: tuple[str, ...] = ()
    """Files that hold it."""
    is_known = True
    """Whether what it holds is known by its files, or hangs on the session alone; else it may be another at any time."""
    in_memory = False

    def run(self, statement: Statement, values: Mapping[str, object]) -> Any:
        """The frame that a statement gives; None for one that gives nothing. Raises `SqlFault`."""
        raise NotImplementedError

    def tables_wanted(self, statement: Statement) -> list[str]:
        """Names that the statement takes for tables, and that the database does not have."""
        return []

    def own_tables(self, statement: Statement) -> bool:
        """Whether the statement may read tables of the database."""
        return True

    def offer(self, name: str, frame: object) -> None:
        """Let statements see a frame of the page under its name, until it is taken back."""

    def take_back(self, name: str) -> None:
        """The name is the page's alone again: what it stands for may be another by the next statement."""

    def close(self) -> None:
        """Write what is to be written, and let go."""


class Duck(Database):
    """DuckDB: a file, or in memory over frames and files. One thread, or sums differ from run to run."""

    def __init__(self, path: str, writes: bool) -> None:
        import duckdb

        self._duckdb = duckdb
        self.files = (path, f"{path}.wal") if path else ()
        self.in_memory = not path
        self._offered: set[str] = set()
        config: dict[str, Any] = {
            "threads": 1,
            "autoinstall_known_extensions": False,
            "python_enable_replacements": False,
        }
        try:
            self._con = duckdb.connect(path or ":memory:", read_only=bool(path) and not writes, config=config)
        except duckdb.Error as error:
            raise SqlFault(_first_line(str(error))) from None
        for setting in ("SET TimeZone = 'UTC'", "SET enable_progress_bar = false"):
            try:
                self._con.execute(setting)
            except duckdb.Error:
                continue

    def tables_wanted(self, statement: Statement) -> list[str]:
        try:
            names = self._con.get_table_names(statement.with_values("NULL "))
        except self._duckdb.Error:
            names = set(re.findall(r"\w+", statement.text))
        there = self._there()
        if any(there.get(name.lower()) == "view" for name in names):  # it may look at frames offered before
            names = names | self._offered
        return sorted(name for name in names if name.lower() not in there)

    def own_tables(self, statement: Statement) -> bool:
        there = self._there()
        made = statement.words[4:5] if statement.words[:1] == ("CREATE",) else statement.words[-1:]
        rest = [word.lower() for word in words_in(statement.text)]
        return any(word in there and word.upper() not in made for word in rest)

    def _there(self) -> dict[str, str]:
        """Names of the tables and views that it has, and which they are."""
        told = "SELECT table_name, 'table' FROM duckdb_tables() UNION SELECT view_name, 'view' FROM duckdb_views() WHERE NOT internal"
        return {name.lower(): kind for name, kind in self._con.execute(told).fetchall()}

    def offer(self, name: str, frame: object) -> None:
        self._con.register(name, frame)
        self._offered.add(name)

    def take_back(self, name: str) -> None:
        self._con.unregister(name)

    def run(self, statement: Statement, values: Mapping[str, object]) -> Any:
        wanted = {one.name: values[one.name] for one in statement.asked}
        try:
            self._con.execute(statement.with_values("${}"), wanted or None)
            return self._frame()
        except self._duckdb.Error as error:
            raise _placed(str(error), statement) from None

    def _frame(self) -> Any:
        told = self._con.description
        if not told or [column[0] for column in told] == ["Count"] or [column[0] for column in told] == ["Success"]:
            return None
        kinds = {column[0]: str(column[1]) for column in told}
        if any(kind.startswith("DECIMAL") for kind in kinds.values()):
            return _of_rows(self._con.fetchall(), [column[0] for column in told])
        frame = self._con.df()
        for name, kind in kinds.items():
            if kind in _HUGE and frame[name].dtype.kind == "f" and frame[name].abs().max() < _EXACT:
                frame[name] = frame[name].astype("Int64" if frame[name].isna().any() else "int64")
        return frame

    def close(self) -> None:
        self._con.close()


class Lite(Database):
    """SQLite, by the standard library."""

    def __init__(self, path: str, writes: bool) -> None:
        import sqlite3

        self._sqlite = sqlite3
        self.files = (path, f"{path}-wal") if path else ()
        self.in_memory = not path
        try:
            target = f"file:{path}?mode={'rwc' if writes else 'ro'}" if path else ":memory:"
            self._con = sqlite3.connect(target, uri=bool(path))
        except sqlite3.Error as error:
            raise SqlFault(f"{error}: {path}" if path else str(error)) from None

    def run(self, statement: Statement, values: Mapping[str, object]) -> Any:
        wanted = {one.name: _simple(values[one.name]) for one in statement.asked}
        try:
            cursor = self._con.execute(statement.text, wanted)
        except (self._sqlite.Error, self._sqlite.Warning) as error:
            raise _placed(str(error), statement) from None
        if cursor.description is None:
            return None
        return _of_rows(cursor.fetchall(), [column[0] for column in cursor.description])

    def close(self) -> None:
        self._con.commit()
        self._con.close()


class Server(Database):
    """A database behind an address, by its DB-API driver. What it holds may be changed by others at any time."""

    is_known = False

    def __init__(self, url: str, connect: Callable[[], Any], errors: Any) -> None:
        self.url, self._errors = url, errors
        try:
            self._con = connect()
        except errors as error:
            raise SqlFault(without_password(_first_line(str(error)), url)) from None

    def run(self, statement: Statement, values: Mapping[str, object]) -> Any:
        text = statement.text.replace("%", "%%") if statement.asked else statement.text
        shifted = statement._replace(text=text, asked=_shifted(statement)) if statement.asked else statement
        wanted = {one.name: _simple(values[one.name]) for one in statement.asked}
        cursor = self._con.cursor()
        try:
            cursor.execute(shifted.with_values("%({})s"), wanted or None)
            if cursor.description is None:
                return None
            return _of_rows(cursor.fetchall(), [column[0] for column in cursor.description])
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
            raise SqlFault(f"reads-state: {without_password(_first_line(str(error)), self.url)}") from None

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
    if scheme not in _MODULES:
        raise SqlFault(f"there is no driver for {scheme!r}; there are: sqlite, duckdb, {', '.join(_MODULES)}")
    if scheme in {"mysql", "mariadb"}:
        return _with_driver(lambda: _mysql(url), "pymysql")
    return _with_driver(lambda: _postgres(url), "psycopg")


def _postgres(url: str) -> Database:
    import psycopg

    def connect() -> Any:
        # What is read is as it was at one moment, however long it takes.
        options = "-c default_transaction_isolation=repeatable\\ read -c TimeZone=UTC -c max_parallel_workers_per_gather=0 -c extra_float_digits=3"
        return psycopg.connect(url, options=options, connect_timeout=10)

    return Postgres(url, connect, psycopg.Error)


def _mysql(url: str) -> Database:
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
    message = getattr(told, "message_primary", None) or _first_line(str(error))
    hint = getattr(told, "message_hint", None)
    words = f"{message}. {hint}" if hint else message
    position = getattr(told, "statement_position", None)
    if position and not statement.asked:
        return SqlFault(words, int(position) - 1)
    fault = _placed(str(error), statement)
    return SqlFault(words, fault.offset)


_CARET = re.compile(r"^LINE (\d+): ?(.*)\n( *)\^", re.MULTILINE)
_QUOTED = re.compile(r"[\"'`]([\w.]+)[\"'`]|(?:table|column|function): ([\w.]+)|near \"([^\"]+)\"")


def _placed(message: str, statement: Statement) -> SqlFault:
    """A database's words, with the place that they tell: a line and a sign under it, or something quoted."""
    words = _first_line(message.partition("\nLINE ")[0].strip())
    caret = _CARET.search(message)
    if caret:
        column = len(caret[3]) - len(f"LINE {caret[1]}: ")
        shown = caret[2]
        lines = statement.text.split("\n")
        line = int(caret[1]) - 1
        if 0 <= line < len(lines):
            cut = shown.startswith("...")
            within = lines[line].find(shown.strip(".")) + column - 3 if cut else column
            return SqlFault(words, sum(len(one) + 1 for one in lines[:line]) + max(0, within))
    quoted = _QUOTED.search(message)
    name = next((part for part in quoted.groups() if part), "") if quoted else ""
    at = statement.text.lower().find(name.lower()) if name else -1
    return SqlFault(words, at if at >= 0 else None)


def _first_line(text: str) -> str:
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    return " ".join(lines[:3]) if lines else "it was refused"


def _simple(value: Any) -> Any:
    """A value as drivers take it: numbers of NumPy as what they are."""
    return value.item() if hasattr(value, "item") and getattr(value, "ndim", 0) == 0 else value


def _of_rows(rows: list[Any], names: list[str]) -> Any:
    """Rows as a frame, each column of the type that its values have."""
    import pandas

    columns = list(zip(*rows, strict=True)) if rows else [()] * len(names)
    made = {place: _column(list(column), pandas) for place, column in enumerate(columns)}
    frame = pandas.DataFrame(made)
    frame.columns = pandas.Index(names)
    return frame


def _column(values: list[Any], pandas: Any) -> Any:
    kinds = {type(value) for value in values if value is not None}
    if kinds == {int} and None in values:
        return pandas.Series(values, dtype="Int64")
    if kinds == {bool} and None in values:
        return pandas.Series(values, dtype="boolean")
    if kinds and {kind.__name__ for kind in kinds} <= {"date", "datetime"}:
        return pandas.to_datetime(pandas.Series(values))
    return pandas.Series(
        values, dtype="object" if not kinds or {kind.__name__ for kind in kinds} & {"Decimal"} else None
    )
