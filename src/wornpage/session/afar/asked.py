"""What a worker of a cluster is asked when a chunk is to run there, and what must be the same there as here.

The page's folder, with its store, is one that both see: values go by the store, by their content; files are read where they
lie. All else that a run may hang on is told, or must be equal; a run there is then the run that it would be here.
"""

from __future__ import annotations

import platform
import sys
from collections.abc import Mapping
from functools import cache
from importlib.metadata import distributions

from msgspec import Struct

from wornpage.session.environment import session_environment
from wornpage.session.python.environments import PythonAt, current
from wornpage.session.tasks import ChunkTask, Environment, Position, Ran
from wornpage.tree.version import VERSION


class Asked(Struct, frozen=True):
    """One chunk, with all that its session needs to know."""

    environment: Environment
    variables: dict[str, str]
    """Of the environment, as sessions have them here."""
    python: PythonAt
    surroundings: dict[str, str]
    page: tuple[int, int]
    """Size and time of the page's file."""
    task: ChunkTask
    at: Position
    is_ahead: bool
    """Whether it is not the chunk's turn yet, so that nothing may be done that others see."""


class Came(Struct, frozen=True):
    """What came of it."""

    ran: Ran | None = None
    why: str = ""
    """Why it did not run, in words; empty where it did."""


def asked(environment: Environment, task: ChunkTask, at: Position, is_ahead: bool) -> Asked:
    """A chunk to be run at a place."""
    variables = session_environment(environment.threads)
    return Asked(environment, variables, current(), surroundings(), _stamp(environment), task, at, is_ahead)


def unlike(one: Asked) -> str:
    """Why a chunk would not do here what it does where it was asked, in words; empty where nothing is in its way."""
    if _stamp(one.environment) != one.page:
        return f"{one.environment.folder} is not the same folder there: a cluster's workers must see the page and its store under the same path"
    here = surroundings()
    for what in sorted({*here, *one.surroundings}):
        wanted, is_there = one.surroundings.get(what, "none"), here.get(what, "none")
        if wanted != is_there:
            return f"{what} is {is_there} there, and {wanted} here"
    return ""


def _stamp(environment: Environment) -> tuple[int, int]:
    try:
        told = (environment.folder / environment.page).stat()
    except OSError:
        return (-1, -1)
    return (told.st_size, told.st_mtime_ns)


def surroundings() -> dict[str, str]:
    """What a run may hang on beside what it is told, by words for it: the Python, the packages, the kind of machine, ourselves."""
    return {**_of_this_program(), "Python": current().identity}


@cache
def _of_this_program() -> Mapping[str, str]:
    packages = {str(one.metadata["Name"]).lower(): one.version for one in distributions() if one.metadata["Name"]}
    return {
        **packages,
        "the machine": f"{platform.system()} {platform.machine()}",
        "Worn Page": VERSION,
        "the byte order": sys.byteorder,
    }
