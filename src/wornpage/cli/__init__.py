"""The command line: arguments in, words out. One file a command; nothing else knows Typer and Rich."""

from __future__ import annotations


def main() -> None:
    """Run the program; where there is nothing to do, without importing more than it takes to see that."""
    import sys

    from wornpage.cli.nothing import is_answered

    if is_answered(sys.argv[1:]):
        return
    from wornpage.cli.app import main as run

    run()


__all__ = ["main"]
