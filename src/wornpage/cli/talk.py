"""`worn talk`: slides that an audience follows."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from wornpage.cli.arguments import GivenValues, PageArgument
from wornpage.cli.say import say, say_problems
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
    from wornpage.talk.server import prepare, serve, square_in_words

    if not page.is_file():
        raise UsageError(f"there is no page {page}.")
    made = prepare(page, given_from(given or ()))
    say_problems(made.warnings)

    def ready(speaker: str, audience: str) -> None:
        print(f"speaker   {speaker}\naudience  {audience}", flush=True)
        if sys.stderr.isatty():
            print(square_in_words(audience), file=sys.stderr, flush=True)
        say("Ctrl-C ends the talk")
        if not stay:
            import webbrowser

            webbrowser.open(speaker)

    try:
        serve(made, port, listen, ready)
    except OSError as error:
        raise UsageError(f"{listen}, port {port}, cannot be used: {error.strerror or error}.") from None
