"""Chunks of SQL: which database they are for, and what is wrong with what they ask for."""

from __future__ import annotations

import re
from urllib.parse import urlsplit

from wornpage.session.languages import known
from wornpage.session.tasks import Query
from wornpage.settings import Settings
from wornpage.settings.models import ChunkOptions
from wornpage.tree.nodes import Chunk
from wornpage.tree.problem import Problem, near_miss

SQL = "sql"


def query_of(chunk: Chunk, options: ChunkOptions, settings: Settings) -> Query | None:
    """Where a chunk of SQL goes; None for a chunk of another language."""
    if known(chunk.language).name != SQL:
        return None
    return Query(options.from_, settings.page.databases.get(options.from_, "memory"), options.into, options.reads_state)


def check_query(chunk: Chunk, options: ChunkOptions, settings: Settings) -> list[Problem]:
    """What is wrong with the database that a chunk names, or with the name that it gives."""
    is_sql = known(chunk.language).name == SQL
    problems = []
    asked = {"from": options.from_, "into": options.into, "reads-state": options.reads_state}
    if not is_sql and (wrong := [name for name, value in asked.items() if value]):
        what = f"`{wrong[0]}=` is for chunks of SQL, and `{chunk.label}` is none."
        problems.append(Problem(chunk.span, what))
    if is_sql and options.from_ and options.from_ not in settings.page.databases:
        names = sorted(settings.page.databases)
        hint = (
            near_miss(options.from_, names)
            or "Name it in the front matter: `databases: {warehouse: data/loans.duckdb}`."
        )
        problems.append(Problem(chunk.span, f"there is no database called {options.from_!r}.", hint))
    if options.into and not re.fullmatch(r"[^\W\d]\w*", options.into):
        problems.append(Problem(chunk.span, f"{options.into!r} is no name that a value could have."))
    return problems


def check_addresses(settings: Settings) -> list[Problem]:
    """Addresses in which a password stands: they would be shared with the page."""
    problems = []
    for name, address in settings.page.databases.items():
        if urlsplit(address).password:
            what = f"the address of the database {name!r} holds a password."
            hint = (
                "Take it out: drivers find it in the environment (`PGPASSWORD`), or in the password file (`~/.pgpass`)."
            )
            problems.append(Problem(settings.place("databases", name), what, hint))
    return problems
