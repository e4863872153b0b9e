"""Where a project begins: the folder with its `worn.yaml`."""

from __future__ import annotations

from pathlib import Path

PROJECT_FILE = "worn.yaml"
VOLUME_FILE = "volume.yaml"
"""Lists the pages of a volume."""


def project_file_of(page: Path) -> Path | None:
    """The nearest `worn.yaml` in or above the folder of a page."""
    return next((path for path in _candidates(page) if path.is_file()), None)


def volume_file_over(page: Path) -> Path | None:
    """The nearest `volume.yaml` in or above the folder of a page, within its project."""
    here, top = page.resolve().parent, project_of(page).resolve()
    for folder in (here, *here.parents):
        if (folder / VOLUME_FILE).is_file():
            return folder / VOLUME_FILE
        if folder == top:
            break
    return None


def project_files_looked_for(page: Path) -> list[Path]:
    """Where a `worn.yaml` was looked for, up to the one that was found: what the settings of a page hang on."""
    looked: list[Path] = []
    for path in _candidates(page):
        looked.append(path)
        if path.is_file():
            break
    return looked


def project_of(page: Path) -> Path:
    """The folder of the project a page belongs to; the page's own folder if there is no `worn.yaml` above it."""
    found = project_file_of(page)
    return found.parent if found else page.resolve().parent


def _candidates(page: Path) -> list[Path]:
    folder = page.resolve().parent
    return [candidate / PROJECT_FILE for candidate in (folder, *folder.parents)]
