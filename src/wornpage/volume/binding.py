"""The story of binding a volume: read, draft each page, compose the whole, write it, take away what is gone."""

from __future__ import annotations

import datetime
import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path

from msgspec import Struct, field
from msgspec import json as typed
from msgspec.structs import replace

from wornpage.output.kind import Job, Written
from wornpage.output.outputs import inputs_of, options_in, output_of
from wornpage.output.stationery import find_stationery
from wornpage.output.writing import write_as
from wornpage.plan import manifest
from wornpage.press.abroad import BOUND
from wornpage.press.crew import Watching
from wornpage.press.writing import check_outputs, check_target, put_file
from wornpage.settings import PageSettings, Settings
from wornpage.source.text import read_text
from wornpage.store.addresses import digest
from wornpage.store.blocks import keep_in, save_all
from wornpage.store.files import content, listing
from wornpage.store.place import store_of
from wornpage.team.sending import send_aside
from wornpage.tree import nodes as n
from wornpage.tree.machine import processors
from wornpage.tree.problem import PageError, Problem, Severity, UsageError, near_miss
from wornpage.tree.project import project_files_looked_for
from wornpage.tree.span import Span
from wornpage.tree.version import VERSION
from wornpage.volume.composing import Composition, Leaf, compose_volume
from wornpage.volume.drafting import Afar, Told, asked_for, draft_all, drafts_of
from wornpage.volume.reading import Entry, Volume, look_in, sound_volume
from wornpage.volume.site import site_files
from wornpage.volume.standing import kept_as, look_again, words_for
from wornpage.volume.whole import Placed, alone, joined
from wornpage.volume.work import DraftReport, remembered_as, standing

SITE = "html"


MadeOf = tuple[str, dict[str, str]]
"""Of what a file of the site was made: its state, and files that it was made from beside that, by what they held."""


class Wish(Struct, frozen=True):
    """What is to be bound, and how."""

    file: Path
    outputs: tuple[str, ...] = (SITE,)
    folder: Path | None = None
    """Where it goes; `bound` beside the volume otherwise."""
    only: tuple[str, ...] = ()
    """Pages that are run and written, others as they were last; all if there are none."""
    afresh: bool = False
    jobs: int | None = None
    each: bool = False
    """Documents of each page by itself, numbered as in the whole; not one of all."""


class BoundFile(Struct, frozen=True):
    """A file that was written, or was right already."""

    kind: str
    path: Path
    written: bool


class Bound(Struct):
    """What came of it."""

    files: list[BoundFile] = field(default_factory=list)
    """The main files: the front page of the site, the documents."""
    changed: list[str] = field(default_factory=list)
    """Files of all that were written anew, from the folder."""
    reports: list[tuple[Entry, DraftReport]] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    """Errors and warnings of the whole; those of single pages are in their reports."""
    gone: list[str] = field(default_factory=list)
    """Files of earlier bindings that were taken away."""

    @property
    def failed(self) -> bool:
        """Whether anything went wrong."""
        errors = any(problem.severity == Severity.ERROR for problem in self.problems)
        return errors or any(report.failed for _, report in self.reports)


def folder_of(wish: Wish) -> Path:
    """Where the files go."""
    return (wish.folder or wish.file.parent / BOUND).absolute()


def volume_of(wish: Wish) -> Volume:
    """The volume that is to be bound. Raises `PageError` where its list is at fault, `UsageError` for what cannot be asked."""
    check_outputs(wish.outputs)
    keep_in(store_of(wish.file.absolute()))
    volume = sound_volume(wish.file)
    chosen_pages(volume, wish.only)
    return volume


def bind(
    volume: Volume,
    wish: Wish,
    watching: Watching,
    told: Callable[[Entry, DraftReport], None],
    today: datetime.date | None = None,
    elsewhere: Afar | None = None,
) -> Bound:
    """Bind a volume; `watching` hears which chunk is at work, `told` what came of each page. A page that fails is told in its report."""
    today = today or datetime.date.today()
    entries = chosen_pages(volume, wish.only)
    bound = Bound()
    order = {entry.chapter.key: at for at, entry in enumerate(volume.entries)}
    found: dict[str, tuple[Entry, DraftReport]] = {}
    for _ in range(_ROUNDS):
        last: list[Told] = []
        afresh = wish.afresh and not found
        for one in draft_all(volume, entries, today, afresh, wish.jobs or processors(), watching, elsewhere):
            last.append(one)
            told(one.entry, one.report)
        found |= {one.entry.chapter.key: (one.entry, one.report) for one in last}
        look_again()
        entries = _to_be_run_again(volume, found, last, today)
        if not entries:
            break
    bound.reports = sorted(found.values(), key=lambda pair: order[pair[0].chapter.key])
    _finish(volume, wish, bound, today)
    for store in {store_of(entry.path) for entry in volume.entries}:
        send_aside(store)
    return bound


_ROUNDS = 4
"""How often pages are run that read what others write, and were run beside them."""


def _to_be_run_again(
    volume: Volume, found: Mapping[str, tuple[Entry, DraftReport]], last: Sequence[Told], today: datetime.date
) -> tuple[Entry, ...]:
    """Pages that have read, or missed, what another has written meanwhile: all run side by side."""
    wrote = {one.entry.chapter.key for one in last if one.report.wrote}
    if not wrote:
        return ()
    others = [pair for key, pair in found.items() if wrote - {key}]
    stale = [entry for entry, report in others if report.failed or standing(asked_for(volume, entry, today)) is None]
    look_again()
    return tuple(stale)


def chosen_pages(volume: Volume, only: Sequence[str]) -> tuple[Entry, ...]:
    """The pages that are asked for, by path or name. Raises `UsageError` for one that is none of the volume."""
    if not only:
        return volume.entries
    found: list[Entry] = []
    for name in only:
        path = Path(name).resolve()
        own = [
            one
            for one in volume.entries
            if one.path.resolve() == path or name in {one.chapter.key, one.address, one.name}
        ]
        if not own:
            hint = near_miss(name, [key for one in volume.entries for key in (one.name, one.chapter.key)])
            raise UsageError(f"{name!r} is no page of this volume. {hint}".rstrip())
        found += own
    return tuple(dict.fromkeys(found)) if len(only) > 1 else tuple(found)


def _finish(volume: Volume, wish: Wish, bound: Bound, today: datetime.date) -> None:
    """Compose and write, unless all is as it was."""
    known = {report.key: report for _, report in bound.reports}
    pages = _pages(volume, known, today)
    state = digest(*(draft for *_, draft in pages))
    if not wish.afresh and not wish.only and not wish.each and not bound.failed:
        found = manifest.still_right(
            volume.file, list(wish.outputs), folder_of(wish), str(today), VERSION, kept_as(folder_of(wish))
        )
        if found is not None and found.headline.get("state") == state:
            bound.files = [BoundFile(kind, Path(path), False) for kind, path in found.outputs]
            return
    keep_in(store_of(volume.file))
    drafts = drafts_of(volume, known, today)
    keep_in(None if wish.afresh else store_of(volume.file))
    whole = compose_volume(volume, drafts, today)
    writing = _Writing(volume, wish, whole, bound)
    writing.write()
    if not wish.only and not wish.each:
        bound.gone = writing.take_away()
        writing.remember({} if bound.failed else words_for(state, pages), today)
    save_all()


def _pages(
    volume: Volume, known: Mapping[str, DraftReport], today: datetime.date
) -> list[tuple[str, str, list[str], str]]:
    """What the files hang on: the drafts in their order (`standing.words_for`)."""
    asked = [asked_for(volume, entry, today) for entry in volume.entries]
    return [
        (one.page, one.remembered, remembered_as(one), known[one.key].known if one.key in known else "")
        for one in asked
    ]


class _Writing:
    """Writes one composition."""

    def __init__(self, volume: Volume, wish: Wish, whole: Composition, bound: Bound) -> None:
        self.volume, self.wish, self.whole, self.bound = volume, wish, whole, bound
        self.folder = folder_of(wish)
        self.files: list[tuple[str, Path]] = []
        """Kind and path of all of them, main files first."""
        self.before = _Before(volume.file, self.folder)
        self.states: dict[str, MadeOf] = {}
        self.read: set[Path] = set(self.before.read)
        self.sources = {volume.file.resolve(), *(entry.path.resolve() for entry in volume.entries)}

    def write(self) -> None:
        """All that was asked for."""
        for kind in self.wish.outputs:
            if kind == SITE:
                self.site()
            elif self.wish.each:
                self.documents(kind)
            else:
                self.document(kind)

    def site(self) -> None:
        """A file for each page."""
        only = {entry.chapter.key for entry, _ in self.bound.reports} if self.wish.only else set()
        afresh = self.wish.afresh
        for one in site_files(self.volume, self.whole, lambda *said: not afresh and self.is_right(*said), only):
            path = (self.folder / one.address).resolve()
            written = one.data is not None and self.put(SITE, path, one.data)
            if one.data is None:
                self.files.append((SITE, path))
            if one.address == "index.html":
                self.bound.files.append(BoundFile(SITE, self.folder / one.address, written))
            if one.state:
                again = one.data is None and self.before.states.get(str(path))
                read = {str(file): content(str(file)) for file in one.read}
                self.states[str(path)] = again or (one.state, read)
            self.tell(one.problems)
            self.read |= set(one.read)

    def is_right(self, address: str, state: str) -> bool:
        """Whether a file is as the last binding wrote it, of the very same."""
        path = str((self.folder / address).resolve())
        made_of, read = self.before.states.get(path, ("", {}))
        is_same = made_of == state and self.before.held.get(path) == content(path)
        return is_same and all(content(file) == held for file, held in read.items())

    def document(self, kind: str) -> None:
        """All pages as one file."""
        draft, own = self.whole.front.draft, self.volume.settings
        self.tell([problem for leaf in (self.whole.front, *self.whole.leaves) for problem in leaf.problems])
        leaves = [_placed(leaf) for leaf in self.whole.leaves]
        page = joined(self.whole.front.page, leaves, self.whole.parts, own.chapters_begin == "right-hand")
        page = replace(page, blocks=(*self.lists(page), *page.blocks))
        try:
            settings = _with_contents(draft.settings, kind)
            made = write_as(kind, page, Job(settings, self.volume.folder, self.volume.name, self.volume.called))
        except PageError as error:
            self.bound.problems += error.problems
            return
        target = self.folder / f"{self.volume.called}{output_of(kind).suffix}"
        self.put_all(kind, target, made)
        self.tell(made.problems)
        self.read |= set(made.read)

    def documents(self, kind: str) -> None:
        """A document for each page: what it says of others is words, and it carries its source."""
        only = {entry.chapter.key for entry, _ in self.bound.reports} if self.wish.only else set()
        for leaf in self.whole.leaves:
            if leaf.entry is None or not leaf.is_own or (only and leaf.key not in only):
                continue
            self.tell(leaf.problems)
            page, path = alone(leaf.page), leaf.entry.path
            whole = joined(replace(page, head=n.TitleBlock()), [replace(_placed(leaf), page=page, part=-1)], ())
            job = Job(
                leaf.draft.settings.page,
                path.parent,
                leaf.draft.page.name,
                leaf.address.rpartition("/")[2],
                read_text(path, leaf.entry.name),
            )
            try:
                made = write_as(kind, whole, job)
            except PageError as error:
                self.tell(error.problems)
                continue
            target = self.folder / f"{leaf.address}{output_of(kind).suffix}"
            self.put_all(kind, target, made)
            self.tell(made.problems)
            self.read |= set(made.read)

    def put_all(self, kind: str, target: Path, made: Written) -> None:
        """A document and what lies beside it."""
        written = self.put(kind, target, made.data)
        for name, data in made.beside.items():
            self.put(kind, target.parent / f"{target.stem}-files" / name, data)
        self.bound.files.append(BoundFile(kind, target, written))

    def lists(self, page: n.Composed) -> Iterator[n.Block]:
        """Lists of the figures and tables of the whole."""
        span = Span(self.volume.name, 1)
        for kind in self.volume.settings.lists:
            entries = tuple(_captions(page.blocks, kind))
            if entries:
                words = (n.Text(span, getattr(page.terms, kind)),)
                yield n.Heading(span, 1, words, label=f"list:{kind}")
                yield n.ContentsList(span, kind, entries)

    def tell(self, problems: Sequence[Problem]) -> None:
        """Each once, however many pages have it."""
        self.bound.problems += [one for one in problems if one not in self.bound.problems]

    def put(self, kind: str, path: Path, data: bytes) -> bool:
        """Write a file below the folder, and nowhere else."""
        path = path.resolve()
        if not path.is_relative_to(self.folder.resolve()):
            raise ValueError(f"a volume wants to write outside its folder: {path}")
        if path in self.sources:
            check_target(path, self.volume.file, self.sources)
        written = put_file(path, data, self.volume.name)
        if written:
            self.bound.changed.append(path.relative_to(self.folder.resolve()).as_posix())
        self.files.append((kind, path))
        return written

    def take_away(self) -> list[str]:
        """Take away files of the last binding that are none of this one; those that somebody has changed since stay."""
        mine = {str(path) for _, path in self.files}
        kinds = set(self.wish.outputs)
        gone = []
        for kind, name, held in manifest.files_of(self.volume.file, kept_as(self.folder)):
            path = Path(name)
            if name in mine or kind not in kinds or not path.is_relative_to(self.folder.resolve()):
                continue
            if content(name) == held:
                path.unlink(missing_ok=True)
                gone.append(str(path.relative_to(self.folder.resolve())))
                _tidy(path.parent, self.folder.resolve())
        return gone

    def remember(self, words: dict[str, str], today: datetime.date) -> None:
        """Keep what the files were made from, so that the next binding can see at once that there is nothing to do."""
        settings = self.whole.front.draft.settings.page
        mains = {one.path.resolve() for one in self.bound.files}
        files = sorted(self.files, key=lambda pair: (pair[0], pair[1] not in mains, str(pair[1])))
        day = str(today) if settings.date == "when-pressed" else ""
        warnings = [str(problem) for problem in self.bound.problems]
        text, made_of = content(str(self.volume.file)), self.before.words(self.states, self.read)
        manifest.remember(
            self.volume.file, text, files, self.went_by(), [], day, VERSION, warnings, [], kept_as(self.folder), {**words, **made_of}
        )  # fmt: skip
        if "pages" in words:  # what places are called, for pages that stand by themselves
            called = {"pages": words["pages"], "called": typed.encode(self.whole.front.work.called()).decode()}
            manifest.remember(self.volume.file, text, [], [], [], day, VERSION, [], [], BOUND, called)

    def went_by(self) -> list[tuple[str, str, str]]:
        """All that the files were made from beside drafts: files of settings and looks, works that are cited, folders with pages."""
        leaves = (self.whole.front, *self.whole.leaves)
        names = {*map(str, project_files_looked_for(self.volume.file)), *map(str, self.read)}
        folders = {str(folder) for folder in look_in(self.volume)}
        names |= {name for leaf in leaves for name in leaf.work.files(leaf.at)}
        for name, folder in {(leaf.draft.settings.page.stationery, leaf.draft.page.path.parent) for leaf in leaves}:
            look = find_stationery(name, folder / "x")
            names |= set(map(str, look.files))
            folders |= {str(look.folder)} if look.folder is not None else set()
        for leaf in leaves:
            names |= {str(leaf.draft.page.path.parent / one.file) for one in inputs_of(leaf.draft.settings.page)}
        reads = [("file", name, content(name)) for name in names if not Path(name).is_dir()]
        return reads + [("listing", folder, listing(folder)) for folder in folders]


class _Before:
    """What the last binding left."""

    def __init__(self, file: Path, folder: Path) -> None:
        last = manifest.last(file, kept_as(folder))
        kept = json.loads(last.headline.get("made-of", "{}")) if last is not None else {}
        self.states: dict[str, MadeOf] = {path: (state, read) for path, (state, read) in kept.get("states", {}).items()}
        self.read = [Path(name) for name in kept.get("read", [])]
        self.held = {path: held for _, path, held in manifest.files_of(file, kept_as(folder))}

    def words(self, states: dict[str, MadeOf], read: set[Path]) -> dict[str, str]:
        """What the next one is to know."""
        return {"made-of": json.dumps({"states": states, "read": sorted(map(str, read))})}


def _with_contents(settings: Settings, kind: str) -> PageSettings:
    """A volume has a table of contents, unless somebody has said otherwise."""
    options = options_in(settings.page, kind)
    if not hasattr(options, "contents") or f"press.{kind}.contents" in settings.levels:
        return settings.page
    field = kind.replace("-", "_")
    return replace(settings.page, press=replace(settings.page.press, **{field: replace(options, contents=True)}))


def _placed(leaf: Leaf) -> Placed:
    chapter = leaf.draft.chapter
    return Placed(leaf.key, leaf.page, leaf.part, chapter is not None and chapter.is_appendix)


def _captions(blocks: n.Blocks, kind: str) -> Iterator[n.ContentsEntry]:
    """Numbered captions of one kind."""
    from wornpage.tree.walk import blocks_of, without_links

    wanted = n.Figure if kind == "figures" else n.TableBlock
    for block in blocks_of(blocks):
        if isinstance(block, wanted) and block.number:
            yield n.ContentsEntry(1, block.number, block.label, without_links(block.caption))


def _tidy(folder: Path, top: Path) -> None:
    """Take away folders that are empty now."""
    while folder != top and folder.is_relative_to(top):
        try:
            folder.rmdir()
        except OSError:
            return
        folder = folder.parent
