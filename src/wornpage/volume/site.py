"""A volume as a site: a file for each page, a front page, the index for searching, what can be taken along."""

from __future__ import annotations

import io
import json
import os
import zipfile
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

from msgspec import Struct, convert, to_builtins
from msgspec.structs import replace

from wornpage.compose.chapters import TOP
from wornpage.compose.language import language_of
from wornpage.output.html.body import Body
from wornpage.output.html.writer import body_of, inlines_alone, page_of
from wornpage.output.kind import Job, Written
from wornpage.output.outputs import inputs_of
from wornpage.output.site import Around, Site, SitePage
from wornpage.output.stationery import find_stationery
from wornpage.output.writing import fit_for, write_as
from wornpage.session.languages import known
from wornpage.store.addresses import digest
from wornpage.store.blocks import FileCache
from wornpage.store.files import content
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.project import project_of
from wornpage.tree.span import Span
from wornpage.tree.version import VERSION
from wornpage.tree.walk import without_links, words_of
from wornpage.volume.announcing import citation_file, feed, site_map
from wornpage.volume.composing import FRONT, Composition, Leaf
from wornpage.volume.reading import Volume
from wornpage.volume.searching import Searched, index_of
from wornpage.volume.whole import alone

_INDEX = "search.js"


class SiteFile(Struct, frozen=True):
    """A file of the site."""

    address: str
    data: bytes | None
    """None for one that is right as it is."""
    state: str = ""
    """By what it was made of: one that has the same state is the same; empty where that is not known."""
    problems: tuple[Problem, ...] = ()
    read: tuple[Path, ...] = ()


Right = Callable[[str, str], bool]
"""Whether the file at an address is as it should be in a state."""


def site_files(volume: Volume, whole: Composition, is_right: Right, only: Iterable[str] = ()) -> Iterator[SiteFile]:
    """Every file of the site; of the pages those whose keys are among `only`, if there are any."""
    site = _site(volume, whole)
    signed = _Signed(volume, site)
    wanted = set(only)
    for leaf in whole.leaves:
        if not wanted or leaf.key in wanted:
            yield from _of_page(volume, leaf, site, signed.of(leaf), is_right)
    if all(leaf.address != "index" for leaf in whole.leaves):
        yield from _told(site.start, lambda: _front(volume, site, whole))
    if site.search:
        found = [_searched(leaf, title) for leaf, title in zip(whole.leaves, site.pages, strict=True)]
        yield SiteFile(_INDEX, index_of(found))
    head, date = whole.front.page.head, whole.front.draft.settings.page.date
    if head.authors:
        yield SiteFile("CITATION.cff", citation_file(site.title, head, date, site.address))
    if site.address:
        yield SiteFile("sitemap.xml", site_map(site))
        yield SiteFile("feed.xml", feed(site, head, date))


def _of_page(volume: Volume, leaf: Leaf, site: Site, state: str, is_right: Right) -> Iterator[SiteFile]:
    """The file of a page, and what it offers beside."""
    address, offered = f"{leaf.address}.html", [one for _, one in _downloads(volume, leaf)]
    if state and all(is_right(one, state) for one in (address, *offered)):
        yield from (SiteFile(one, None, state) for one in (address, *offered))
        return

    def page() -> SiteFile:
        around = Around(site, leaf.key)
        body, problems = _body(leaf, around)
        made = page_of(body, _job(leaf, around))
        problems = (*problems, *made.problems)
        return SiteFile(address, made.data, "" if problems else state, problems, made.read)

    yield from _told(address, page)
    for one, make in _beside(volume, leaf):
        yield from _told(one, lambda one=one, make=make: replace(make(), address=one, state=state))  # type: ignore[misc]


def _told(address: str, make: Callable[[], SiteFile]) -> Iterator[SiteFile]:
    """One file; what hinders it is told with the rest, and hinders no other."""
    try:
        yield make()
    except PageError as error:
        yield SiteFile(address, None, "", tuple(error.problems))


def _front(volume: Volume, site: Site, whole: Composition) -> SiteFile:
    page = _cover(site, whole)
    page = replace(page, blocks=(*page.blocks, *_lists(volume, whole)))
    made = _written(whole.front, page, Around(site, FRONT))
    return SiteFile(site.start, made.data, "", (*whole.front.problems, *made.problems), made.read)


def _searched(leaf: Leaf, page: SitePage) -> Searched:
    return Searched(page.address, f"{page.number} {page.plain}".strip(), lambda: leaf.page, leaf.state)


class _Signed:
    """All that the file of a page is made of, as a hash."""

    def __init__(self, volume: Volume, site: Site) -> None:
        self._volume = volume
        around = [site.title, site.parts, site.address, site.source_link, site.report_link, site.search]
        pages = [[one.key, one.address, one.number, one.html, one.part, one.downloads] for one in site.pages]
        self._around = digest(VERSION, repr(around), repr(pages))
        self._looks: dict[tuple[str, Path], str] = {}

    def of(self, leaf: Leaf) -> str:
        """Of a page; empty where that is not known."""
        if not leaf.state:
            return ""
        settings, folder = leaf.draft.settings.page, leaf.draft.page.path.parent
        files = [str(folder / one.file) for one in inputs_of(settings)]
        data = [str(path) for _, path in _data(leaf)] if "data" in self._volume.settings.downloads else []
        held = [f"{path}={content(path)}" for path in (*files, *data)]
        return digest(self._around, leaf.state, self._look(settings.stationery, folder), *held)

    def _look(self, name: str, folder: Path) -> str:
        """Of a stationery."""
        key = (name, folder)
        if key not in self._looks:
            found = find_stationery(name, folder / "x")
            self._looks[key] = digest(*(f"{path}={content(str(path))}" for path in sorted(found.files)))
        return self._looks[key]


def _site(volume: Volume, whole: Composition) -> Site:
    own = volume.settings
    root = _root(volume.folder)
    pages = tuple(
        SitePage(
            leaf.key,
            f"{leaf.address}.html",
            leaf.title,
            inlines_alone(without_links(leaf.title), leaf.draft.language),
            words_of(leaf.title),
            leaf.number,
            leaf.part,
            tuple(_downloads(volume, leaf)),
            os.path.relpath(leaf.entry.path, root).replace(os.sep, "/") if leaf.entry is not None else "",
            leaf.entry.edition if leaf.entry is not None else "",
        )
        for leaf in whole.leaves
    )
    return Site(
        whole.front.page.plain_title,
        pages,
        whole.parts,
        search=_INDEX if own.search else "",
        address=own.address,
        source_link=own.source_link,
        report_link=own.report_link,
    )


def _span(leaf: Leaf) -> Span:
    return Span(leaf.draft.page.name, 1)


def _root(folder: Path) -> Path:
    """Where paths to sources begin: the folder under version control, or that of the project."""
    under = next((one for one in (folder, *folder.parents) if (one / ".git").exists()), None)
    return under or project_of(folder / "x")


_bodies = FileCache("bodies")


def _body(leaf: Leaf, around: Around) -> tuple[Body, tuple[Problem, ...]]:
    """A page without what stands around it, and what is wrong with it; kept as long as it says the same, wherever it stands."""
    site = around.site
    links = sorted((page.key, page.address) for page in site.pages)
    own = around.own
    named = [own.path, own.edition, own.plain] if own is not None else []
    key = digest(VERSION, leaf.state, repr(links), repr(named), site.source_link, site.report_link)
    place = around.address.encode("utf-8", "surrogatepass")
    held = _bodies.get(place, "body") if leaf.state else None
    known = json.loads(held) if held is not None else [""]
    if known[0] == key:
        return convert(known[1], Body), ()
    fit = fit_for("html", leaf.page)
    body, problems = body_of(fit.page, _job(leaf, around)), (*leaf.problems, *fit.problems)
    if leaf.state and not problems:
        _bodies.put(json.dumps([key, to_builtins(body)]).encode(), place, "body")
    return body, problems


def _job(leaf: Leaf, around: Around) -> Job:
    draft = leaf.draft
    return Job(draft.settings.page, draft.page.path.parent, draft.page.name, around=around)


def _written(leaf: Leaf, page: n.Composed, around: Around) -> Written:
    return write_as("html", page, _job(leaf, around))


# --- the front page ---------------------------------------------------------------------------


def _cover(site: Site, whole: Composition) -> n.Composed:
    """Title, authors and abstract of the whole, then its contents."""
    front, span = whole.front.page, _span(whole.front)
    entries: list[n.ContentsEntry] = []
    part = -1
    for page in site.pages:
        if page.part != part and page.part >= 0:
            number, title = site.parts[page.part]
            entries.append(n.ContentsEntry(1, number, "", (n.Text(span, title),), is_part=True))
        part = page.part
        level = 1 if part < 0 else 2
        entries.append(n.ContentsEntry(level, page.number, TOP, without_links(page.words), page=page.key))
    return replace(front, blocks=(n.ContentsList(span, "contents", tuple(entries)),), contents=())


def _lists(volume: Volume, whole: Composition) -> Iterator[n.Block]:
    """Lists of the figures and tables of the whole, if they are asked for."""
    span, terms = _span(whole.front), whole.front.page.terms
    for kind in volume.settings.lists:
        found = [replace(one, page=leaf.key) for leaf in whole.leaves for one in leaf.work.entries(leaf.at, kind)]
        if found:
            yield n.Heading(span, 1, (n.Text(span, getattr(terms, kind)),), label=f"list-of-{kind}")
            yield n.ContentsList(span, kind, tuple(found))


# --- what can be taken along ------------------------------------------------------------------


def _downloads(volume: Volume, leaf: Leaf) -> Iterator[tuple[str, str]]:
    """What a page offers: words, and addresses from the site's folder."""
    words = language_of(leaf.draft.settings.page.language).volume
    if leaf.entry is None or not leaf.is_own:
        return
    for kind in volume.settings.downloads:
        if kind == "pdf":
            yield "PDF", f"{leaf.address}.pdf"
        elif kind == "code" and _code(leaf)[1]:
            yield words["code"], f"{leaf.address}.{_code(leaf)[0]}"
        elif kind == "data" and _data(leaf):
            yield words["data"], f"{leaf.address}-data.zip"


def _beside(volume: Volume, leaf: Leaf) -> Iterator[tuple[str, Callable[[], SiteFile]]]:
    """The files of what a page offers, with their addresses."""
    if leaf.entry is None or not leaf.is_own:
        return
    offered = volume.settings.downloads
    if "pdf" in offered:
        yield f"{leaf.address}.pdf", lambda: _sheets(leaf)
    if "code" in offered and _code(leaf)[1]:
        suffix, text = _code(leaf)
        yield f"{leaf.address}.{suffix}", lambda: SiteFile("", text.encode("utf-8", "replace"))
    if "data" in offered and _data(leaf):
        yield f"{leaf.address}-data.zip", lambda: SiteFile("", _packed(_data(leaf)))


def _sheets(leaf: Leaf) -> SiteFile:
    """A page alone, on sheets."""
    draft = leaf.draft
    made = write_as("pdf", alone(leaf.page), Job(draft.settings.page, draft.page.path.parent, draft.page.name))
    return SiteFile("", made.data, "", made.problems, made.read)


def _code(leaf: Leaf) -> tuple[str, str]:
    """What the code of a page's main language ends in, and the code; nothing where there is none."""
    code = leaf.drafted.code if leaf.drafted is not None else ()
    if not code:
        return "", ""
    first = code[0][0]
    text = "\n\n".join(text.rstrip("\n") for language, text in code if language == first)
    language = known(first)
    return language.suffixes[0].lstrip(".") if language is not None else first, text + "\n"


def _data(leaf: Leaf) -> list[tuple[str, Path]]:
    """Files that a page read, with their names; none from outside its project."""
    if leaf.drafted is None:
        return []
    folder = leaf.draft.page.path.parent.resolve()
    project = project_of(leaf.draft.page.path).resolve()
    found = [(folder / name).resolve() for name in leaf.drafted.data]
    return [
        (path.relative_to(project).as_posix(), path)
        for path in found
        if path.is_relative_to(project) and path.is_file() and ".worn" not in path.relative_to(project).parts
    ]


def _packed(files: list[tuple[str, Path]]) -> bytes:
    """An archive that is the same whenever it is made."""
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, path in sorted(set(files)):
            about = zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0))
            about.external_attr = 0o644 << 16
            archive.writestr(about, path.read_bytes(), zipfile.ZIP_DEFLATED)
    return held.getvalue()
