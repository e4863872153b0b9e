"""The demo: a conservation laboratory's pages on how paper wears out and how that is measured, with made-up data."""

from __future__ import annotations

from importlib.resources import files
from pathlib import Path

from wornpage.tree.problem import UsageError

FILES = (
    "paper-wear.md", "measuring-paper.md", "folding-tester.svg", "loans-and-acid.md", "loans-and-acid.reviewed.docx", "make_data.py", "references.bib", "works.json", "branch-report.md", "worn-or-acid.md", "wear-course.md", "wear-course.drawn.json", "parts/kind-of-paper.md", "worn.yaml",
    "yearly/volume.yaml", "yearly/preface.md", "yearly/handbook/testing.md", "yearly/handbook/mending.md", "yearly/handbook/keeping.md", "yearly/branch.md", "yearly/paper.md", "yearly/data.md",
    "data/branches.csv", "data/volumes.csv", "data/climate.csv", "data/repairs.csv",
)  # fmt: skip

PAGES = tuple(name for name in FILES if name.endswith(".md") and "/" not in name)

LANGUAGES = {"worn-or-acid.md": ("r",)}
"""By page: the languages that it needs beside Python, which this machine may not have."""
VOLUME = "yearly"
"""The folder of a volume, which is bound."""
IN_EDITIONS = ("branch-report.md",)
"""Pages that are pressed for many given values."""
IN_WORDS = ("loans-and-acid.md",)
"""Pages that are pressed to documents for word processors, too."""
IN_SHEETS = ("branch-report.md",)
"""Pages that are pressed to workbooks, too."""
IN_SLIDES = ("wear-course.md",)
"""Pages that are pressed to slides, too."""
REVIEWED = "loans-and-acid.reviewed.docx"
"""The paper as a reviewer sent it back."""
PAPER = "loans-and-acid.md"
"""The page that is pressed in every stationery."""


CORRECTION = "correction"
"""The folder in which data of the paper are corrected."""
HEADLINE = '10 ** slope["damp"]'
"""What the paper asks for where a number stands that the correction changes."""
_WITHDRAWN = range(100, 125)
"""Numbers of volumes that were tested with a faulty clamp."""


def write_correction(folder: Path) -> Path:
    """The paper in a folder of its own, with the data as they were first; the page."""
    place = folder / CORRECTION
    for name in (PAPER, "references.bib", "data/volumes.csv", "data/climate.csv"):
        target = place / name
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_bytes(files("wornpage.demo").joinpath(name).read_bytes())
    return place / PAPER


def correct(page: Path) -> int:
    """Take the volumes that were withdrawn out of the data beside a page; how many there were."""
    data = page.parent / "data" / "volumes.csv"
    lines = data.read_text(encoding="utf-8").splitlines(keepends=True)
    gone = {f"Q{number:04d}" for number in _WITHDRAWN}
    kept = [line for line in lines if line.partition(",")[0] not in gone]
    data.write_text("".join(kept), encoding="utf-8")
    return len(lines) - len(kept)


def write_demo(folder: Path) -> list[Path]:
    """Write the demo into `folder`; returns the files that were there with other contents, and stay.

    Raises `UsageError` where the folder cannot be written.
    """
    kept = []
    for name in FILES:
        target, data = folder / name, files("wornpage.demo").joinpath(name).read_bytes()
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            if not target.exists():
                target.write_bytes(data)
            elif target.read_bytes() != data:
                kept.append(target)
        except OSError as error:
            raise UsageError(f"{target} cannot be written: {error.strerror}.") from None
    return kept
