"""The program `worn`, its commands, and the one place where errors become exit statuses."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from wornpage import __version__
from wornpage.cli import demo, new, press, reproduce, run, status, store
from wornpage.cli.say import say, say_problems
from wornpage.tree.problem import UsageError, WornError

app = typer.Typer(
    name="worn",
    help="Prose and code in one Markdown file, pressed to HTML and PDF.\n\n"
    "Begin with `worn new my-report`, then `worn press my-report.md`.",
    no_args_is_help=True,
    rich_markup_mode="markdown",
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
)
app.command("new")(new.new)
app.command("press")(press.press)
app.command("run")(run.run)
app.command("status")(status.status)
app.command("graph")(status.graph)
app.command("settings")(status.settings)
app.command("reproduce")(reproduce.reproduce)
app.add_typer(store.app, name="store")
app.command("demo")(demo.demo)


def _version(wanted: bool) -> None:
    if wanted:
        typer.echo(f"worn {__version__}")
        raise typer.Exit


@app.callback()
def _worn(
    version: Annotated[
        bool, typer.Option("--version", callback=_version, is_eager=True, help="Say the version.")
    ] = False,
) -> None:
    pass


_BROKEN_OFF = 130


def main() -> None:
    """Run the program. Exit status 0: done; 1: the page or its code is at fault; 2: the command line is."""
    try:
        app()
    except UsageError as error:
        say(f"worn: {error}")
        sys.exit(2)
    except WornError as error:
        say_problems(error.problems)
        sys.exit(1)
    except SystemExit as left:
        if left.code == _BROKEN_OFF:  # Typer's own status for Ctrl-C
            sys.exit(1)
        raise
    except BrokenPipeError:
        sys.stderr.close()
        sys.exit(1)
    except KeyboardInterrupt:
        say("worn: broken off")
        sys.exit(1)
