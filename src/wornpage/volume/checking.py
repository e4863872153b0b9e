"""Everything that can be known of a volume without running: its list, each of its pages, and pointers from page to page."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from wornpage.check.finding import PAGE, Finding
from wornpage.check.page import check_read
from wornpage.check.text import Labels
from wornpage.settings.models import ProjectSettings
from wornpage.settings.texts import check_yaml
from wornpage.source import Page, read_page
from wornpage.tree.problem import PageError
from wornpage.tree.project import volume_file_over
from wornpage.volume.reading import Volume, read_volume


class Elsewhere:
    """The labels of all pages of a volume, as far as they are known without running."""

    def __init__(self, volume: Volume) -> None:
        self.pages: dict[Path, Page] = {}
        self.faults: list[Finding] = []
        self._labels: dict[str, Labels] = {}
        for entry in volume.entries:
            try:
                page = self.pages.get(entry.path) or read_page(entry.path, entry.name)
            except PageError as error:
                self.faults += [Finding(PAGE, problem) for problem in error.problems]
                continue
            self.pages[entry.path] = page
            self._labels[entry.chapter.key] = Labels(page)

    def has(self, label: str) -> bool:
        """Whether some page has a label, or may have it once it has run."""
        page, _, rest = label.rpartition("/")
        if page:
            return page in self._labels and (rest == page or self._labels[page].has(rest, ""))
        return label in self._labels or any(own.has(label, "") for own in self._labels.values())

    def known(self) -> set[str]:
        """All of them, for near misses."""
        return {*self._labels, *(label for own in self._labels.values() for label in own.known)}


def check_volume(file: Path) -> list[Finding]:
    """Everything found without running, in the order of the pages. Raises `PageError` if the list cannot be read at all."""
    volume, problems = read_volume(file)
    found = [Finding(PAGE, problem) for problem in problems]
    others = Elsewhere(volume)
    found += others.faults
    for page in others.pages.values():
        found += check_read(page, others, file)
    return found


def check_settings(path: Path, text: str, kind: str) -> Iterator[Finding]:
    """What is wrong with a `worn.yaml` or a `volume.yaml` as an editor has it."""
    if kind == "volume":
        _, problems = read_volume(path, text)
    else:
        problems = list(check_yaml(ProjectSettings, text, path.name, 1, path.name, None).problems)
    yield from (Finding(PAGE, problem) for problem in problems)


def volume_over(page: Path) -> Volume | None:
    """The volume that a page is one of, if its list can be read."""
    file = volume_file_over(page)
    if file is None:
        return None
    try:
        volume, _ = read_volume(file)
    except PageError:
        return None
    return volume if any(entry.path.resolve() == page.resolve() for entry in volume.entries) else None


def within_volume(page: Page, found: list[Finding]) -> list[Finding]:
    """What was found in a page by itself, but for labels that other pages of its volume have."""
    if all(finding.rule != "labels" for finding in found):
        return found
    volume = volume_over(page.path)
    return check_read(page, Elsewhere(volume)) if volume is not None else found
