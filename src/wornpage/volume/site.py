"""A volume as a site: a file for each page, a front page, the index for searching, what can be taken along."""

from __future__ import annotations

import io
import os
import zipfile
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from wornpage.compose.chapters import TOP
from wornpage.compose.language import language_of
from wornpage.output.kind import Job, Written
from wornpage.output.outputs import output_of
from wornpage.output.site import Around, Site, SitePage
from wornpage.session.languages import known
from wornpage.settings import PageSettings
from wornpage.store.addresses import digest
from wornpage.store.files import content
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.project import project_of
from wornpage.tree.span import Span
from wornpage.tree.version import VERSION
from wornpage.tree.walk import rewrite, without_links, words_of
from wornpage.volume.announcing import citation_file, feed, site_map
from wornpage.volume.composing import FRONT, Composition, Leaf
from wornpage.volume.drafting import volume_settings
from wornpage.volume.reading import Volume
from wornpage.volume.searching import Searched, index_of

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
    signed = _signed(volume, site)
    wanted = set(only)
    for leaf in whole.leaves:
        if wanted and leaf.key not in wanted:
            continue
        address, state = f"{leaf.address}.html", digest(signed, leaf.state) if leaf.state else ""
        if state and is_right(address, state) and all(is_right(one, state) for _, one in _downloads(volume, leaf)):
            yield from (SiteFile(one, None, state) for one in (address, *(one for _, one in _downloads(volume, leaf))))
            continue
        made = _written(leaf, leaf.page, Around(site, leaf.key))
        problems = (*leaf.problems, *made.problems)
        yield SiteFile(address, made.data, "" if problems else state, problems, made.read)
        yield from (replace(one, state=state) for one in _beside(volume, leaf))
    if all(leaf.address != "index" for leaf in whole.leaves):
        made = _written(whole.front, _cover(site, whole), Around(site, FRONT))
        yield SiteFile(site.start, made.data, "", (*whole.front.problems, *made.problems), made.read)
    if site.search:
        found = [_searched(leaf, title) for leaf, title in zip(whole.leaves, site.pages, strict=True)]
        yield SiteFile(_INDEX, index_of(found))
    head, date = whole.front.page.head, whole.front.draft.settings.page.date
    if head.authors:
        yield SiteFile("CITATION.cff", citation_file(site.title, head, date, site.address))
    if site.address:
        yield SiteFile("sitemap.xml", site_map(site))
        yield SiteFile("feed.xml", feed(site, head, date))


def _searched(leaf: Leaf, page: SitePage) -> Searched:
    return Searched(page.address, f"{page.number} {page.plain}".strip(), lambda: leaf.page, leaf.state)


def _signed(volume: Volume, site: Site) -> str:
    """All that stands around pages, and that their looks hang on, as a hash."""
    from wornpage.output.outputs import inputs_of
    from wornpage.output.stationery import find_stationery

    around = [site.title, site.parts, site.address, site.source_link, site.report_link, site.search]
    pages = [[page.key, page.address, page.number, repr(page.words), page.part, page.downloads] for page in site.pages]
    looks: set[str] = set()
    for name, folder, settings in _looks(volume):
        found = find_stationery(name, folder / "x")
        looks |= {str(path) for path in found.files}
        looks |= {str(folder / one.file) for one in inputs_of(settings)}
    return digest(VERSION, repr(around), repr(pages), *(f"{path}={content(path)}" for path in sorted(looks)))


def _looks(volume: Volume) -> list[tuple[str, Path, PageSettings]]:
    settings = volume_settings(volume).page
    return [(settings.stationery, volume.folder, settings)]


def _site(volume: Volume, whole: Composition) -> Site:
    own = volume.settings
    root = _root(volume.folder)
    pages = tuple(
        SitePage(
            leaf.key,
            f"{leaf.address}.html",
            leaf.title,
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


def _written(leaf: Leaf, page: n.Composed, around: Around) -> Written:
    draft = leaf.draft
    job = Job(draft.settings.page, draft.page.path.parent, draft.page.name, "", around=around)
    return output_of("html").write(page, job)


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


def _beside(volume: Volume, leaf: Leaf) -> Iterator[SiteFile]:
    """The files of what a page offers."""
    if leaf.entry is None or not leaf.is_own:
        return
    offered = volume.settings.downloads
    if "pdf" in offered:
        draft = leaf.draft
        title = replace(leaf.page, blocks=_own_links(leaf.page.blocks))
        made = output_of("pdf").write(title, Job(draft.settings.page, draft.page.path.parent, draft.page.name))
        yield SiteFile(f"{leaf.address}.pdf", made.data, "", made.problems, made.read)
    if "code" in offered and _code(leaf)[1]:
        suffix, text = _code(leaf)
        yield SiteFile(f"{leaf.address}.{suffix}", text.encode("utf-8", "replace"))
    if "data" in offered and _data(leaf):
        yield SiteFile(f"{leaf.address}-data.zip", _packed(_data(leaf)))


def _own_links(blocks: n.Blocks) -> n.Blocks:
    """Links to other pages are words in a document that has this page alone."""

    def change(node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        match node:
            case n.Link(page=page, children=children) if page:
                inner: n.Inlines = rewrite(children, change)
                return inner
            case n.ReferenceList(entries=entries):
                own = tuple(replace(one, backs=tuple(spot for spot in one.backs if not spot.page)) for one in entries)
                return replace(node, entries=own)
        return None

    made: n.Blocks = rewrite(blocks, change)
    return made


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
