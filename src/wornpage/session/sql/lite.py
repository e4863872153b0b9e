"""SQLite, by the standard library."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from wornpage.session.sql.database import Database, SqlFault, placed
from wornpage.session.sql.rows import frame_of, simple
from wornpage.session.sql.statements import Statement


class Lite(Database):
    """A file of SQLite."""

    def __init__(self, path: str, writes: bool) -> None:
        import sqlite3

        self._sqlite = sqlite3
        self.files = (path, f"{path}-wal")
        try:
            self._con = sqlite3.connect(f"file:{path}?mode={'rwc' if writes else 'ro'}", uri=True)
        except sqlite3.Error as error:
            raise SqlFault(f"{error}: {path}") from None

    def run(self, statement: Statement, values: Mapping[str, object]) -> Any:
        wanted = {one.name: simple(values[one.name]) for one in statement.asked}
        declared = self._declared(statement)
        try:
            cursor = self._con.execute(statement.text, wanted)
        except (self._sqlite.Error, self._sqlite.Warning) as error:
            raise placed(str(error), statement) from None
        if cursor.description is None:
            return None
        return frame_of(cursor.fetchall(), [column[0] for column in cursor.description], declared)

    def _declared(self, statement: Statement) -> list[str]:
        """The types that its tables declare for the columns of a result: values themselves are texts and numbers alone."""
        if not statement.reads_only or statement.words[:1] not in {("SELECT",), ("WITH",), ("VALUES",)}:
            return []
        try:
            self._con.execute(f"create temp view worn_types as {statement.with_values('NULL ').rstrip().rstrip(';')}")
            return [str(row[2]) for row in self._con.execute("pragma temp.table_info(worn_types)")]
        except (self._sqlite.Error, self._sqlite.Warning):
            return []
        finally:
            self._con.execute("drop view if exists temp.worn_types")

    def close(self) -> None:
        self._con.commit()
        self._con.close()
