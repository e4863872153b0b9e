"""A volume as `volume.yaml` has it: its pages in their order, and everything that is wrong with the list."""

from __future__ import annotations

import os
import re
from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import Path

from msgspec import Struct, convert
from msgspec.structs import replace

from wornpage.compose.chapters import Chapter
from wornpage.press import examine
from wornpage.settings.models import ProjectSettings
from wornpage.settings.texts import Checked, check_yaml
from wornpage.settings.volume import PageItem, VolumeSettings
from wornpage.source import Page, read_page
from wornpage.source.naming import stem_of
from wornpage.source.page import FrontMatter
from wornpage.store.blocks import BlockCache
from wornpage.tree.counting import letters
from wornpage.tree.files import file_text
from wornpage.tree.hosts import HOSTS
from wornpage.tree.problem import PageError, Problem, UsageError, near_miss, stop_on_errors
from wornpage.tree.project import PROJECT_FILE, VOLUME_FILE, project_file_of
from wornpage.tree.span import Span

_checked_before = BlockCache("settings")
_MAGIC = re.compile(r"[*?\[]")


class Entry(Struct, frozen=True):
    """A page at its place in the volume."""

    path: Path
    name: str
    """What it is called in messages."""
    address: str
    """Where it is in the site, without ending: `chapters/damp`."""
    chapter: Chapter
    span: Span
    """Where the volume names it."""
    part: int = -1
    """The place of its part; -1 for pages in none."""
    edition: str = ""
    given: dict[str, object] = {}


class Volume(Struct, frozen=True):
    """A work of many pages."""

    file: Path
    name: str
    """What `volume.yaml` is called in messages."""
    text: str
    """What it says."""
    settings: VolumeSettings
    checked: Checked
    entries: tuple[Entry, ...]

    @property
    def folder(self) -> Path:
        """Where it lies."""
        return self.file.parent

    @property
    def called(self) -> str:
        """What files of the whole are called."""
        return stem_of(self.settings.name or self.folder.name or "volume").lower()


def no_volume(path: Path) -> UsageError:
    """What is said where there is no such volume."""
    beside = sorted(str(one) for one in Path().glob(f"*/{VOLUME_FILE}"))
    hint = f"There is {beside[0]}." if beside else f"A volume is a folder with a {VOLUME_FILE} that lists its pages."
    return UsageError(f"{path}: there is no such volume. {near_miss(str(path), beside) or hint}")


def read_volume(file: Path, text: str | None = None) -> tuple[Volume, list[Problem]]:
    """The volume that a `volume.yaml` is, and everything that is wrong with it; `text` is what it says, where that is not saved.

    Raises `PageError` where it cannot be read.
    """
    name = str(file)
    try:
        text = file_text(file) if text is None else text
    except (OSError, UnicodeDecodeError) as error:
        reason = error.strerror if isinstance(error, OSError) else "it is not UTF-8"
        raise PageError([Problem(Span(name, 1), f"this cannot be read: {reason}.")]) from None
    checked = check_yaml(VolumeSettings, text, name, 1, VOLUME_FILE, _checked_before)
    settings = convert(_with_project(file, checked), VolumeSettings)
    listing = _Listing(file.absolute(), name, settings, checked)
    entries = listing.entries()
    volume = Volume(file.absolute(), name, text, settings, checked, entries)
    problems = [*checked.problems, *listing.problems]
    if not checked.problems:
        problems += examine(blank_page(volume.file, name), volume=file)[2]
    return volume, list(dict.fromkeys(problems))


def _with_project(file: Path, checked: Checked) -> dict[str, object]:
    """What a volume sets; whether chapters have numbers may be set for the whole project."""
    path, key = project_file_of(file), "section_numbers"
    if path is None or key in checked.values:
        return checked.values
    try:
        common = check_yaml(ProjectSettings, file_text(path), str(path), 1, PROJECT_FILE, _checked_before).values
    except (OSError, UnicodeDecodeError):
        return checked.values  # told with the settings of the pages
    return {**checked.values, key: common[key]} if key in common else checked.values


def blank_page(path: Path, name: str, text: str = "") -> Page:
    """A page that says nothing; `text` is that of the file that things in it come from."""
    return Page(path, name, text, FrontMatter("", 1), (), (), ())


def sound_volume(file: Path) -> Volume:
    """The same; raises `PageError` with all that is wrong."""
    volume, problems = read_volume(file)
    stop_on_errors(problems)
    return volume


def look_in(volume: Volume) -> list[Path]:
    """Folders in which a new page would be one of the volume."""
    found: dict[Path, None] = {}
    own = volume.settings
    for items in (own.front, own.pages, *(part.pages for part in own.parts), own.appendix):
        for item in items:
            if not _MAGIC.search(item.page):
                continue
            parts = Path(item.page).parts
            first = next(at for at, part in enumerate(parts) if _MAGIC.search(part))
            base = volume.folder.joinpath(*parts[:first])
            found[base] = None
            if first < len(parts) - 1 and base.is_dir():
                found.update(
                    dict.fromkeys(sorted(one for one in base.rglob("*") if one.is_dir() and not _is_ours(one, base)))
                )
    return list(found)


class _Listing:
    """Finds the pages that a volume names."""

    def __init__(self, file: Path, name: str, settings: VolumeSettings, checked: Checked) -> None:
        self.file, self.folder, self.name, self.settings, self.checked = file, file.parent, name, settings, checked
        self.problems: list[Problem] = []
        self.taken: dict[tuple[Path, str], Span] = {}

    def entries(self) -> tuple[Entry, ...]:
        """All pages in their order, numbered and told apart."""
        own = self.settings
        groups: list[tuple[tuple[PageItem, ...], tuple[str | int, ...], str, int]] = [
            (own.front, ("front",), "front", -1),
            (own.pages, ("pages",), "main", -1),
            *((part.pages, ("parts", at, "pages"), "main", at) for at, part in enumerate(own.parts)),
            (own.appendix, ("appendix",), "appendix", -1),
        ]
        found = [
            (entry, role)
            for items, place, role, part in groups
            for at, item in enumerate(items)
            for entry in self._of(item, (*place, at), part)
        ]
        if not found and not self.problems:
            what = "this volume has no pages."
            self.problems.append(Problem(Span(self.name, 1), what, "List them under `pages:`, as `- chapters/*.md`."))
        return tuple(_numbered(found, own))

    def _of(self, item: PageItem, place: tuple[str | int, ...], part: int) -> Iterator[Entry]:
        span = self.checked.place(*place)
        written = item.page or item.editions_of
        if bool(item.page) == bool(item.editions_of):
            what = "here stands either a page, or `editions-of:` with the page whose editions are meant."
            self.problems.append(Problem(span, what))
            return
        for path in self._files(written, span):
            name = os.path.relpath(path) if _is_below(path, Path.cwd()) else str(path)
            names = [("", {})] if item.page else list(self._editions(path, name, item.only, span))
            for edition, given in names:
                earlier = self.taken.setdefault((path, edition), span)
                if earlier is not span:
                    if not _MAGIC.search(written):  # a pattern takes what is not named elsewhere
                        what = f"{written!r} stands already in line {earlier.line}."
                        self.problems.append(Problem(span, what, "Each page stands once in a volume."))
                    continue
                yield Entry(path, name, self._address(path, edition), Chapter("", 0), span, part, edition, given)

    def _files(self, written: str, span: Span) -> list[Path]:
        """The files that are meant, in the order in which people count."""
        if not _MAGIC.search(written):
            path = Path(os.path.normpath(self.folder / written))
            if path.suffix.lower() in HOSTS:
                what = f"{written!r} is no page in Markdown, and only such can be chapters."
                self.problems.append(Problem(span, what))
                return []
            if path.is_file():
                return [path]
            beside = (
                [os.path.relpath(one, self.folder) for one in self.folder.rglob("*.md")] if _few(self.folder) else []
            )
            hint = (
                f"For the pages in that folder write `{written.rstrip('/')}/*.md`."
                if path.is_dir()
                else near_miss(written, beside)
            )
            self.problems.append(Problem(span, f"there is no page {written!r}.", hint))
            return []
        try:
            found = [Path(os.path.normpath(one)) for one in self.folder.glob(written) if one.is_file()]
        except (ValueError, NotImplementedError) as error:
            self.problems.append(Problem(span, f"{written!r} is no pattern: {error}."))
            return []
        named = {path for path, _ in self._named()}
        kept = sorted(
            (
                one
                for one in found
                if one not in named and one.suffix.lower() not in HOSTS and not _is_ours(one, self.folder)
            ),
            key=_as_counted,
        )
        if not found:
            self.problems.append(Problem(span, f"no page fits {written!r}."))
        return kept

    def _named(self) -> Iterator[tuple[Path, str]]:
        """Pages that are named themselves: patterns pass them over, wherever they stand."""
        own = self.settings
        for items in (own.front, own.pages, *(part.pages for part in own.parts), own.appendix):
            for item in items:
                written = item.page or item.editions_of
                if not _MAGIC.search(written):
                    yield Path(os.path.normpath(self.folder / written)), written

    def _editions(
        self, path: Path, name: str, only: Iterable[str], span: Span
    ) -> Iterator[tuple[str, dict[str, object]]]:
        """The editions of a page that are chapters."""
        from wornpage.choices.sets import chosen, editions_of

        try:
            page = read_page(path, name)
            settings, _, problems = examine(page, volume=self.file)
            stop_on_errors(problems)
            found = chosen(editions_of(page, settings), tuple(only), ())
        except PageError as error:
            self.problems += error.problems
            return
        except UsageError as error:
            self.problems.append(Problem(span, str(error)))
            return
        if not found:
            self.problems.append(Problem(span, f"{name} has no editions.", "A page declares them under `editions:`."))
        for one in found:
            yield one.name, one.given

    def _address(self, path: Path, edition: str) -> str:
        """Where a page goes in the site; one from outside the volume's folder goes by its name alone."""
        stem = path.with_suffix("")
        inside = stem.relative_to(self.folder) if _is_below(path, self.folder) else Path(stem.name)
        own = re.sub(r"\s+", "-", edition)
        return (inside / own if own else inside).as_posix()


def _numbered(found: list[tuple[Entry, str]], settings: VolumeSettings) -> Iterator[Entry]:
    """Entries with their numbers, and names that no two of them share."""
    stems = Counter(Path(entry.address).name for entry, _ in found)
    taken: set[str] = set()
    addresses = {"references", "index-of-terms", "search"}
    """Those of the site's own files: pages keep out of their way."""
    chapters = appendices = 0
    for order, (entry, role) in enumerate(found):
        number = ""
        if role == "main" and settings.section_numbers:
            chapters += 1
            number = str(chapters)
        elif role == "appendix":
            appendices += 1
            number = letters(appendices).upper()
        stem = Path(entry.address).name
        key = re.sub(r"[^\w./-]+", "-", stem if stems[stem] == 1 else entry.address)
        while key in taken:
            key += "-b"
        taken.add(key)
        address = entry.address
        while address.lower() in addresses:
            address += "-page"
        addresses.add(address.lower())
        by_chapter = settings.numbers == "by-chapter"
        yield replace(entry, address=address, chapter=Chapter(key, order, number, role == "appendix", by_chapter))


def _as_counted(path: Path) -> list[object]:
    """`part-2` stands before `part-10`."""
    return [(0, int(one), "") if one.isdigit() else (1, 0, one.lower()) for one in re.split(r"(\d+)", str(path)) if one]


def _is_below(path: Path, folder: Path) -> bool:
    return path.is_relative_to(folder)


def _is_ours(path: Path, folder: Path) -> bool:
    """Whether a file is one that we wrote ourselves, beside a page."""
    return path.name.endswith(".before-collating.md") or any(
        part.startswith(".") for part in path.relative_to(folder).parts
    )


def _few(folder: Path) -> bool:
    """Whether a folder may be looked through for what was meant."""
    return folder not in {Path.home(), Path("/")}
