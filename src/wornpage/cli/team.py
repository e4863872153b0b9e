"""`worn store key`, `trust`, `distrust`, `send`: a store that a team shares."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, TypeVar

import typer

from wornpage.cli.arguments import EditionName, GivenValues, PageArgument
from wornpage.cli.say import megabytes, say
from wornpage.tree.problem import UsageError

T = TypeVar("T")


def key() -> None:
    """Print the key that others need in order to take what you have run: for `worn store trust` of theirs."""
    from wornpage.team.keys import own_key, said

    typer.echo(said(_signing(own_key)))


def trust(
    key: Annotated[
        str,
        typer.Argument(
            help="What `worn store key` prints for them; without, those you trust are listed.", show_default=False
        ),
    ] = "",
    name: Annotated[str, typer.Option("--name", help="What to call them.")] = "",
) -> None:
    """Take what someone has run from the team's store from now on; without a key, list those you trust."""
    from wornpage.team.keys import trust as trust_key
    from wornpage.team.keys import trusted

    if key:
        say(f"trusted from now on: {trust_key(key, name)}")
        return
    known = trusted().values()
    for one in known:
        typer.echo(str(one))
    if not known:
        say("you trust nobody yet, so that nothing is taken from a team's store")


def distrust(who: Annotated[str, typer.Argument(help="A name or a key that `worn store trust` lists.")]) -> None:
    """Take nothing more of someone. What has been taken already stays until `worn store clear`."""
    from wornpage.team.keys import distrust as distrust_key

    say(f"no longer trusted: {distrust_key(who)}")


def send(page: PageArgument, given: GivenValues = None, edition: EditionName = "") -> None:
    """Send what a page has run to the team's store, and wait for it. A pressing sends it by itself, and nobody waits."""
    from wornpage.cli.given import prepared
    from wornpage.plan.status import status_of
    from wornpage.store.place import store_of
    from wornpage.team.sending import note
    from wornpage.team.sending import send as send_all
    from wornpage.tree.project import project_of

    source, settings = prepared(page, given, edition)
    asked, store = settings.page.store, store_of(page)
    if not asked.at:
        raise UsageError(f"{page} names no store of a team. Write `store: /srv/worn` or `store: s3://bucket/prefix`.")
    for trace in status_of(source, settings, edition).runs:
        note(store, asked, project_of(page), trace)
    sent = _signing(lambda: send_all(store))
    say(
        f"{sent.runs:,} run{'s' * (sent.runs != 1)} sent, {megabytes(sent.size)}"
        + (f"; {sent.left:,} wait" if sent.left else "")
    )
    if sent.trouble:
        raise UsageError(f"the team's store {sent.trouble}.")


def _signing(act: Callable[[], T]) -> T:
    """What an act gives that signs. Raises `UsageError` where the package for it is missing."""
    try:
        return act()
    except ImportError as error:
        raise UsageError(
            f"the package {error.name or error} is missing; install Worn Page with its extra `team`."
        ) from None
