"""`worn talk`: slides that an audience follows."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from wornpage.cli.arguments import GivenValues, PageArgument
from wornpage.cli.say import say_problems
from wornpage.cli.serving import at_port, show
from wornpage.tree.problem import UsageError


def talk(
    page: PageArgument,
    given: GivenValues = None,
    listen: Annotated[
        str,
        typer.Option(
            "--listen", metavar="ADDRESS", help="Where to listen; `0.0.0.0` lets in whoever can reach this machine."
        ),
    ] = "127.0.0.1",
    port: Annotated[int, typer.Option("--port", help="The port to serve on.  [default: any]", show_default=False)] = 0,
    stay: Annotated[bool, typer.Option("--no-open", help="Say the addresses and open nothing.")] = False,
) -> None:
    """Show a page's slides, and let an audience follow them on screens of their own.

    Prints two addresses: the speaker's, which is nobody else's business, and the audience's, also as a QR code.
    Followers can look back and join again; they can change nothing. Ctrl-C ends it.
    """
    from wornpage.cli.given import given_from
    from wornpage.talk.server import TalkServer, square_in_words

    if not page.is_file():
        raise UsageError(f"there is no page {page}.")
    with at_port(port, listen):
        talk = TalkServer(port, listen)
    talk.prepare(page, given_from(given or ()))
    say_problems(talk.warnings)

    def ready(speaker: str) -> None:
        print(f"speaker   {speaker}\naudience  {talk.base}", flush=True)
        if sys.stderr.isatty():
            print(square_in_words(talk.base), file=sys.stderr, flush=True)
        show(speaker, "Ctrl-C ends the talk", stay)

    talk.run(ready)
