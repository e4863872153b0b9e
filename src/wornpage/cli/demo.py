"""`worn demo`: the Marlow Street Library's pages with their data, written and pressed."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from wornpage.cli.say import say
from wornpage.tree.problem import UsageError


def demo(
    folder: Annotated[Path, typer.Argument(help="Where to write it.", metavar="[DIR]")] = Path("worn-demo"),
) -> None:
    """Write the demo, its pages with their data, and press them."""
    from wornpage.cli.binding import Asked, bind_wanted
    from wornpage.cli.collate import collate
    from wornpage.cli.press import press
    from wornpage.demo import (
        IN_EDITIONS,
        IN_SHEETS,
        IN_SLIDES,
        IN_WORDS,
        LANGUAGES,
        PAGES,
        PAPER,
        REVIEWED,
        VOLUME,
        write_demo,
    )
    from wornpage.session.languages import known

    if folder.exists() and not folder.is_dir():
        raise UsageError(f"{folder} is a file; the demo wants a folder.")
    for path in write_demo(folder):
        say(f"kept as it is, since it was changed: {path}")
    for page in PAGES:
        missing = [trouble for name in LANGUAGES.get(page, ()) if (trouble := known(name).trouble)]
        if missing:
            say(f"{page} is written, and not pressed: {missing[0].partition(chr(10))[0]}")
            continue
        kinds = "html,pdf" + ",docx,tex" * (page in IN_WORDS) + ",xlsx" * (page in IN_SHEETS)
        kinds += ",slides,slides-pdf,pptx" * (page in IN_SLIDES)
        press(folder / page, kinds=kinds, all_editions=page in IN_EDITIONS)
        if page in IN_EDITIONS:
            press(folder / page, kinds="html")  # which carries controls
    for looks in ("report", "manuscript"):
        press(folder / PAPER, kinds="html,pdf,docx,tex", out=folder / looks, stationery=looks)
    say(f"worn bind {VOLUME}")
    bind_wanted(Asked(folder / VOLUME, "html,pdf,epub"))
    say(f"worn collate {PAPER} {REVIEWED}")
    collate(folder / PAPER, [folder / REVIEWED], write=False)
    _tell_correction(folder)


def _tell_correction(folder: Path) -> None:
    """Data are corrected: what that changes, and where a number of the paper comes from."""
    from wornpage.cli.compare import compare
    from wornpage.cli.origin import origin
    from wornpage.cli.press import press
    from wornpage.demo import HEADLINE, correct, write_correction

    page = write_correction(folder)
    press(page, kinds="html")
    count = correct(page)
    say(f"{count} volumes that were tested with a faulty clamp are taken out of {page.parent / 'data/volumes.csv'}")
    say(f"worn compare {page.relative_to(folder)}")
    compare(page)
    say(f'worn origin {page.relative_to(folder)} "{HEADLINE}"')
    origin(page, HEADLINE)
