"""`worn new`: a small page that presses as it is."""

from __future__ import annotations

import shlex
from pathlib import Path
from typing import Annotated

import typer

from wornpage.cli.say import say
from wornpage.tree.problem import UsageError, near_miss


def new(
    name: Annotated[
        str, typer.Argument(help="The page's name; `my-report` writes `my-report.md`.", show_default=False)
    ],
    kind: Annotated[
        str,
        typer.Option(
            help="What to begin from: `report`, `manuscript`, `slides`, `notes`, `blank` or `latex`; or `volume`, a folder of pages."
        ),
    ] = "report",
    language: Annotated[str, typer.Option(help="The language of its chunks: `python` or `r`.")] = "python",
) -> None:
    """Write a small page to begin from, or a volume of several. It presses as it is."""
    from wornpage import starters

    if kind == starters.VOLUME:
        return _new_volume(Path(name))
    if kind not in starters.KINDS:
        kinds = (*starters.KINDS, starters.VOLUME)
        hint = near_miss(kind, kinds) or f"There are: {', '.join(kinds)}."
        raise UsageError(f"there is no kind of page {kind!r}. {hint}")
    if language.lower() not in starters.LANGUAGES:
        hint = near_miss(language, starters.LANGUAGES) or f"There are: {', '.join(starters.LANGUAGES)}."
        raise UsageError(f"there is no page to begin from in {language!r}. {hint}")
    language = language.lower()
    if kind not in starters.LANGUAGES[language]:
        raise UsageError(f"in {language} there is: {', '.join(starters.LANGUAGES[language])}.")
    ending = starters.ENDINGS.get(kind, ".md")
    path = Path(name if name.endswith(ending) else f"{name}{ending}")
    if path.exists():
        raise UsageError(f"{path} is there already and stays as it is. Choose another name.")
    if not path.parent.is_dir():
        raise UsageError(f"there is no folder {path.parent}.")
    path.write_text(starters.text(kind, path.stem, language), encoding="utf-8")
    typer.echo(str(path))
    for beside, text in starters.companions(kind, path.stem).items():
        if not (path.parent / beside).exists():
            (path.parent / beside).write_text(text, encoding="utf-8")
            typer.echo(str(path.parent / beside))
    _for_version_control(path.parent)
    outputs = {"slides": " --as slides,html", "latex": " --as tex,tex-pdf"}.get(kind, "")
    say(f"press it with: worn press {shlex.quote(str(path))}{outputs}")
    return None


def _for_version_control(folder: Path) -> None:
    """Write what version control is told, where nobody has told it anything."""
    from wornpage import starters

    for name, text in starters.version_control(folder.resolve()).items():
        (folder / name).write_text(text, encoding="utf-8")
        typer.echo(str(folder / name))


def _new_volume(folder: Path) -> None:
    """Write a volume into a folder of its own."""
    from wornpage import starters

    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise UsageError(f"{folder} is there already and stays as it is. Choose another name.")
    for place, text in starters.volume_files(folder.name).items():
        (folder / place).parent.mkdir(parents=True, exist_ok=True)
        (folder / place).write_text(text, encoding="utf-8")
        typer.echo(str(folder / place))
    _for_version_control(folder)
    say(f"bind it with: worn bind {shlex.quote(str(folder))}")
