"""The command line: arguments in, words out. One file a command; nothing else knows Typer and Rich."""

from __future__ import annotations


def main() -> None:
    """Run the program, or let a keeper do it that has all imported."""
    import sys

    _make_ready()
    from wornpage.cli.plain import nothing_to_do, plain_press, says_version

    if says_version(sys.argv[1:]):
        return
    plain = plain_press(sys.argv[1:])
    if plain is not None and nothing_to_do(plain[0], plain[1], None, as_json=False):
        return
    from wornpage.keeper.asking import done_by_keeper, start_if_wanted

    status = done_by_keeper(sys.argv[1:], looked=plain is not None)
    if status is None:
        start_if_wanted()
        command(looked=plain is not None)
    sys.exit(status)


def _make_ready() -> None:
    import gc
    import io
    import sys

    if isinstance(sys.stdout, io.TextIOWrapper):
        sys.stdout.reconfigure(errors="replace")  # names of files that are no text have a sign in their place
    # Trees of pages have a million parts and no circles: going through them is in vain.
    gc.set_threshold(500_000, 50, 50)


def command(looked: bool = False) -> None:
    """Do what the command line says, importing no more than that needs. `looked` tells that there is something to do."""
    import os
    import sys

    _make_ready()
    from wornpage.cli.plain import plain_bind, plain_press

    plain = plain_press(sys.argv[1:])
    if (volume := plain_bind(sys.argv[1:])) is not None:
        from wornpage.cli.binding import Asked, bind_wanted
        from wornpage.cli.ending import ended

        ended(lambda: bind_wanted(Asked(*volume)))
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(0)  # taking a million nodes apart one by one would take as long as composing them
    elif plain is None:
        from wornpage.cli.app import main as run

        run()
    else:
        from wornpage.cli.ending import ended
        from wornpage.cli.pressing import Wanted, press_wanted

        ended(lambda: press_wanted(Wanted(*plain, looked=looked)))


__all__ = ["main"]
