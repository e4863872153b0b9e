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
