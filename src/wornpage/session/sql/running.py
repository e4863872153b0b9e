"""A chunk of SQL in the page's Python session."""

from __future__ import annotations

import difflib
import json
import os
from collections.abc import Mapping
from contextlib import suppress
from typing import TYPE_CHECKING, Any

from wornpage.session.sql.database import Database, SqlFault
from wornpage.session.sql.databases import open_database
from wornpage.session.sql.server import Server
from wornpage.session.sql.statements import Statement, fleeting, place_of, statements
from wornpage.store.addresses import digest

if TYPE_CHECKING:
    from wornpage.session.python.driver import Driver

_open: dict[str, Database] = {}
"""Databases in memory, by what they are called: they last as long as the session."""


class SqlError(SyntaxError):
    """A statement that a database refuses, at its line of the chunk."""


def run_query(query: Mapping[str, Any], code: str, label: str, driver: Driver) -> object:
    """Run the statements of a chunk; the frame that the last of them gave, or None. Raises `SqlError`."""
    found = statements(code)
    writes = not all(one.reads_only for one in found)
    database = _database(query, writes, code, label)
    result = None
    try:
        _tell_of_files(database, found, writes)
        _tell_of_server(database, query, found, writes, driver)
        for statement in found:
            try:
                result = _run_one(statement, database, driver)
            except SqlFault as fault:
                raise _error(str(fault), code, label, statement.start + (fault.offset or 0)) from None
    finally:  # what was done before a statement failed has been done
        if not database.in_memory:
            database.close()
        _tell_of_rest(database, query, code, writes, driver)
    if query["into"]:
        if result is None:
            raise _error(f"the last statement gives nothing that could be called {query['into']!r}", code, label, 0)
        driver.tracker.names[query["into"]] = result
    return result


def _database(query: Mapping[str, Any], writes: bool, code: str, label: str) -> Database:
    name = query["database"]
    if name in _open:
        return _open[name]
    try:
        database = open_database(query["address"], os.getcwd(), writes)
    except SqlFault as fault:
        raise _error(f"{query['database'] or 'the database'}: {fault}", code, label, 0) from None
    if database.in_memory:
        _open[name] = database
    return database


def _run_one(statement: Statement, database: Database, driver: Driver) -> Any:
    values = {one.name: _value(one.name, statement, driver) for one in statement.asked}
    frames: dict[str, object] = {}
    for name in database.tables_wanted(statement):
        with suppress(KeyError):  # it is none of the page's
            frames[name] = driver.tracker.names[name]
    frames = {name: frame for name, frame in frames.items() if _is_frame(frame)}
    try:
        for name, frame in frames.items():
            database.offer(name, frame)
        return database.run(statement, values)
    finally:
        for name in frames:
            database.take_back(name)


def _is_frame(value: object) -> bool:
    return hasattr(value, "columns") or hasattr(value, "__arrow_c_stream__")


def _value(name: str, statement: Statement, driver: Driver) -> object:
    """A given value of that name, or what the page calls so."""
    given: Any = driver.given
    try:
        return getattr(given, name)
    except AttributeError:
        pass
    try:
        value = driver.tracker.names[name]
    except KeyError:
        known = sorted({*dir(given), *driver.tracker.table})
        near = difflib.get_close_matches(name, known, 2)
        hint = f"; did you mean {' or '.join(map(repr, near))}?" if near else ""
        at = next(one.start for one in statement.asked if one.name == name)
        raise SqlFault(f"`:{name}` is no given value, and no name of the page{hint}", at) from None
    if isinstance(value, (str, int, float, bool, type(None))) or hasattr(value, "isoformat") or hasattr(value, "item"):
        return value
    if isinstance(value, (list, tuple)):
        return list(value)
    raise SqlFault(f"`:{name}` is a {type(value).__name__}, and no single value that could be bound", 0)


def _tell_of_files(database: Database, found: list[Statement], writes: bool) -> None:
    """Have the session note which files are read, by touching them as Python would."""
    import glob

    begins_anew = writes and all(one.makes_anew for one in found) and not any(map(database.own_tables, found))
    for path in database.files:
        if not begins_anew:
            with suppress(OSError), open(path, "rb"):
                pass
        if writes:
            with suppress(OSError):
                os.close(os.open(path, os.O_WRONLY))
    for statement in found:
        for text in statement.texts:
            if "." in text and "\n" not in text and len(text) < 500:
                for path in glob.glob(text, recursive=True) if glob.has_magic(text) else [text]:
                    with suppress(OSError, ValueError), open(path, "rb"):
                        pass


def _tell_of_rest(database: Database, query: Mapping[str, Any], code: str, writes: bool, driver: Driver) -> None:
    """What a chunk leaves behind in memory; and what makes it impossible to know whether it would do the same."""
    if writes and database.in_memory:
        driver.left_in_databases = f"it changed the database {query['database'] or 'in memory'}"
    word = fleeting(code)
    if word:
        driver.fleeting = f"`{word}` gives another value each time"


def _tell_of_server(
    database: Database, query: Mapping[str, Any], found: list[Statement], writes: bool, driver: Driver
) -> None:
    """Whether what a server holds can be known to be as it was, and by what; told before anything is read."""
    if not isinstance(database, Server):
        return
    if writes:
        driver.fleeting = "it changes what a server holds"
        return
    try:
        state = database.state(query["probe"])
        unseen = database.changes_unseen({word for one in found for word in one.words}) if not query["probe"] else ""
    except SqlFault as fault:
        raise _error(str(fault), "", "", 0) from None
    if unseen:
        driver.fleeting = f"`{unseen}` may give another value each time"
    elif state:
        driver.states[json.dumps([query["address"], query["probe"]])] = digest(state)
    else:
        driver.fleeting = "nothing tells whether what the server holds is as it was (`reads-state=` may)"


def _error(message: str, code: str, label: str, offset: int) -> SqlError:
    line, column = place_of(code, offset)
    lines = code.split("\n")
    text = lines[line - 1] if line <= len(lines) else ""
    return SqlError(message, (f"chunk:{label}", line, column, text))
