"""The program `worn` and its commands."""

from __future__ import annotations

from typing import Annotated

import typer

from wornpage import __version__
from wornpage.cli import (
    bind,
    check,
    collate,
    compare,
    deliver,
    demo,
    desk,
    editions,
    environment,
    exchange,
    lsp,
    new,
    origin,
    pack,
    press,
    proof,
    reproduce,
    run,
    schema,
    serve,
    sources,
    stationery,
    status,
    store,
    talk,
)
from wornpage.cli.ending import ended

app = typer.Typer(
    name="worn",
    help="Prose and code in one Markdown file, pressed to HTML, PDF and documents.\n\n"
    "Begin with `worn new my-report`, then `worn press my-report.md`.",
    no_args_is_help=True,
    rich_markup_mode="markdown",
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
)
app.command("new")(new.new)
app.command("press")(press.press)
app.command("proof")(proof.proof)
app.command("talk")(talk.talk)
app.command("desk")(desk.desk)
app.command("run")(run.run)
app.command("check")(check.check)
app.command("status")(status.status)
app.command("origin")(origin.origin)
app.command("compare")(compare.compare)
app.command("graph")(status.graph)
app.command("settings")(status.settings)
app.command("given")(status.given)
app.command("editions")(editions.editions)
app.command("environment")(environment.environment)
app.command("pack")(pack.pack)
app.command("deliver")(deliver.deliver)
app.command("reproduce")(reproduce.reproduce)
app.add_typer(store.app, name="store")
app.add_typer(sources.app, name="sources")
app.add_typer(stationery.app, name="stationery")
app.command("bind")(bind.bind)
app.command("serve")(serve.serve)
app.command("collate")(collate.collate)
app.command("import")(exchange.import_)
app.command("code")(exchange.code)
app.command("lsp")(lsp.lsp)
app.command("schema")(schema.schema)
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


def main() -> None:
    """Run the program."""
    ended(app)
