"""`worn desk`: readers pick given values and get the report."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from wornpage.cli.say import say, say_problems
from wornpage.cli.serving import at_port, show
from wornpage.tree.problem import Severity, UsageError

if TYPE_CHECKING:
    from wornpage.desk.people import Door
    from wornpage.desk.wishes import Wish
    from wornpage.desk.work import Report
    from wornpage.tree.problem import Problem


def desk(
    pages: Annotated[
        list[Path] | None, typer.Argument(help="The pages.", metavar="PAGE...", show_default=False)
    ] = None,
    listen: Annotated[
        str, typer.Option("--listen", metavar="ADDRESS", help="Where to listen; with `--users` or `--named-by` alone.")
    ] = "127.0.0.1",
    users: Annotated[
        Path | None, typer.Option("--users", metavar="FILE", help="People who are let in by name and password.")
    ] = None,
    let_in: Annotated[
        str,
        typer.Option(
            "--let-in", metavar="NAME", help="Write somebody into that file, ask for their password, and end."
        ),
    ] = "",
    named_by: Annotated[
        str,
        typer.Option(
            "--named-by",
            metavar="HEADER",
            help="A proxy before the desk lets people in, and names them in this header.",
        ),
    ] = "",
    proxy: Annotated[
        list[str] | None,
        typer.Option("--proxy", metavar="ADDRESS", help="The proxy's own address.  [default: this machine]"),
    ] = None,
    jobs: Annotated[
        int | None, typer.Option("--jobs", help="How many reports are made at once.  [default: one a processor]", min=1)
    ] = None,
    new_address: Annotated[
        bool, typer.Option("--new-address", help="The address of before opens nothing any more.")
    ] = False,
    port: Annotated[int, typer.Option("--port", help="The port to serve on.  [default: any]", show_default=False)] = 0,
    stay: Annotated[bool, typer.Option("--no-open", help="Say the address and open nothing.")] = False,
) -> None:
    """Let people who do not write pages pick the given values of some, and get the report: shown, and as files to take along.

    Only what must run runs. It is served to this machine alone, under an address that nobody else knows, unless people are let in by name. Ctrl-C ends it.
    """
    if let_in:
        _let_in(users, let_in)
        return
    if not pages:
        raise UsageError("say which pages the desk is for: `worn desk report.md`.")
    door = _door(listen, users, named_by, proxy)
    from wornpage.desk.results import Results
    from wornpage.desk.server import DeskServer
    from wornpage.tree.machine import processors

    if new_address:
        Results(pages[0]).new_key()
    with at_port(port, listen):
        server = DeskServer(pages, door, jobs or processors(), port, listen, _tell)

    def ready(address: str) -> None:
        print(address, flush=True)
        show(address, "readers pick values there; Ctrl-C ends the desk", stay)

    server.run(ready)


def _door(listen: str, users: Path | None, named_by: str, proxy: Sequence[str] | None) -> Door:
    from wornpage.desk.people import Door, Users
    from wornpage.serving.loopback import is_own

    if users is not None and named_by:
        raise UsageError("people are let in by `--users`, or by a proxy with `--named-by`: say one of them.")
    if not is_own(listen) and users is None and not named_by:
        raise UsageError(
            f"at {listen} everybody who can reach this machine would be let in. Say who may: `--users FILE`, or `--named-by HEADER` behind a proxy."
        )
    if proxy and not named_by:
        raise UsageError("`--proxy` says whose word counts for `--named-by HEADER`, which is not there.")
    if users is not None and not is_own(listen):
        say(
            "passwords go over the network as they are typed: put a proxy with TLS before this desk, where others share the network"
        )
    usual = Door()
    return Door(Users(users) if users is not None else None, named_by, tuple(proxy) if proxy else usual.proxies)


def _let_in(users: Path | None, name: str) -> None:
    from getpass import getpass

    from wornpage.desk.people import let_in

    if users is None:
        raise UsageError("say in which file: `--users people.txt --let-in NAME`.")
    if sys.stdin.isatty():
        password = getpass(f"Password for {name}: ")
        if password != getpass("The same again: "):
            raise UsageError("the two are not the same; nothing is changed.")
    else:
        password = sys.stdin.readline().rstrip("\n")
    let_in(users, name, password)
    say(f"{name} is let in by {users}")


def _tell(wish: Wish, what: Report | Sequence[Problem]) -> None:
    """In full, for whoever keeps the desk."""
    problems = what.problems if hasattr(what, "problems") else what
    given = " ".join(f"{name}={value}" for name, value in wish.given.items())
    say(f"{wish.page} {given}".rstrip() + ": no report")
    say_problems(one for one in problems if one.severity == Severity.ERROR)
