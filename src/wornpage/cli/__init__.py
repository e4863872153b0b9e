"""The command line: arguments in, words out. One file a command; nothing else knows Typer and Rich."""

from wornpage.cli.app import main

__all__ = ["main"]
