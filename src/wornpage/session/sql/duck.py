"""DuckDB. Its driver is imported in the session, where a page asks for it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from wornpage.session.sql.database import Database, SqlFault, first_line, placed
from wornpage.session.sql.rows import frame_of
from wornpage.session.sql.statements import Statement, words_in

_HUGE = frozenset({"HUGEINT", "UHUGEINT", "BIGNUM"})
_EXACT = 2**53


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
            raise SqlFault(first_line(str(error))) from None
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
            raise placed(str(error), statement) from None

    def _frame(self) -> Any:
        told = self._con.description
        if not told or [column[0] for column in told] == ["Count"] or [column[0] for column in told] == ["Success"]:
            return None
        kinds = {column[0]: str(column[1]) for column in told}
        if any(kind.startswith("DECIMAL") for kind in kinds.values()):
            return frame_of(self._con.fetchall(), [column[0] for column in told])
        frame = self._con.df()
        for name, kind in kinds.items():
            if kind in _HUGE and frame[name].dtype.kind == "f" and frame[name].abs().max() < _EXACT:
                frame[name] = frame[name].astype("Int64" if frame[name].isna().any() else "int64")
        return frame

    def close(self) -> None:
        self._con.close()
