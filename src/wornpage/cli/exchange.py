"""`worn import` and `worn code`: pages from what exists, and code from pages."""

from __future__ import annotations

import shlex
from pathlib import Path
from typing import Annotated

import typer

from wornpage.cli.arguments import PageArgument
from wornpage.cli.say import say
from wornpage.tree.files import as_utf8
from wornpage.tree.problem import UsageError, near_miss


def import_(
    file: Annotated[Path, typer.Argument(help="A script `.py` or `.R`, or a notebook `.ipynb`.", show_default=False)],
    page: Annotated[Path | None, typer.Argument(help="The page to write; beside the file otherwise.")] = None,
) -> None:
    """Make a page of a script or a notebook. Comments that stand alone become prose, the code stays as it is.

    A script that `worn code` wrote becomes the page it was made from.
    """
    target = page or file.with_suffix(".md")
    if target.exists():
        raise UsageError(
            f"{target} is there already and stays as it is. Name another: `worn import {shlex.quote(str(file))} PAGE`."
        )
    if not target.parent.is_dir():
        raise UsageError(f"there is no folder {target.parent}.")
    from wornpage import exchange
    from wornpage.output.atomic import write_file

    text = _read(file)
    title = file.stem.replace("-", " ").replace("_", " ")
    title = title[:1].upper() + title[1:]
    match file.suffix.lower():
        case ".py" | ".r" if exchange.is_from_page(text):
            made = exchange.page_again(text)
        case ".py":
            made = exchange.page_of_script(text, str(file), title)
        case ".r":
            made = exchange.page_of_r_script(text, title)
        case ".ipynb":
            folder = f"{target.stem}-pictures"
            notebook = exchange.page_of_notebook(text, str(file), title, folder)
            for name, data in notebook.pictures.items():
                (target.parent / folder).mkdir(exist_ok=True)
                write_file(target.parent / folder / name, data)
            for note in notebook.notes:
                say(note)
            made = notebook.text
        case _:
            raise UsageError(f"{file} is neither a script `.py` or `.R` nor a notebook `.ipynb`.")
    write_file(target, as_utf8(made))
    print(target)
    say(f"press it with: worn press {shlex.quote(str(target))}")


def _read(file: Path) -> str:
    try:
        return file.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError:
        raise UsageError(f"{file} is not UTF-8.") from None
    except OSError as error:
        beside = [path.name for path in file.parent.glob("*.*")] if file.parent.is_dir() else []
        raise UsageError(f"{file} cannot be read: {error.strerror}. {near_miss(file.name, beside)}") from None


def code(
    page: PageArgument,
    out: Annotated[
        Path | None, typer.Option("--out", metavar="FILE", help="Write it here, not to the terminal.")
    ] = None,
) -> None:
    """Write a page's code alone, as a script that runs: labels and prose are its comments.

    `worn import` makes the same page of it again.
    """
    from wornpage.exchange import script_of
    from wornpage.press import prepare
    from wornpage.source import read_page
    from wornpage.tree.nodes import Insert
    from wornpage.tree.walk import walk

    source = read_page(page, str(page))
    settings, _, _ = prepare(source)
    made = script_of(source, settings)
    inserted = sorted({node.file for node in walk(source.blocks) if isinstance(node, Insert)})
    if inserted:
        say(f"the code of inserted files is not in it: {', '.join(inserted)}")
    if out is None:
        print(made, end="")
        return
    from wornpage.cli.writing import save

    save(out, as_utf8(made), [source.path, *(file.path for file in source.files)])
    print(out)
