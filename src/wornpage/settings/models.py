"""Everything that may be set, with its type, default and meaning.

Each setting's meaning is the text in its annotation; `checking` makes the validation and the JSON Schema from these
same classes. Keys are written with hyphens.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, Literal

from msgspec import Struct

from wornpage.settings.outputs import press_settings
from wornpage.tree.kinds import (
    Between,
    Duration,
    Length,
    LineTurns,
    MacroName,
    OneFile,
    Paths,
    Percentage,
    Read,
    Several,
    SeveralWords,
    Size,
    Truth,
    Whole,
    Words,
    alone,
    or_one,
)
from wornpage.tree.shown import ShownOptions


class ChunkOptions(ShownOptions, frozen=True):
    """What may follow the label in a chunk's header, or stand under `chunks:`."""

    on_error: Annotated[Literal["stop", "show"], "Stop the pressing, or print the error in the page and go on."] = (
        "stop"
    )
    width: Annotated[Length | None, "Real width of figures."] = None
    height: Annotated[Length | None, "Real height of figures."] = None
    scale: Annotated[Percentage, "How large figures are shown."] = 1.0
    dpi: Annotated[Whole, Between(20, 2400), "Dots an inch of raster figures."] = 200
    alt: Annotated[Words, "Alternative text of figures; the caption's words otherwise."] = ""
    pick_out: Annotated[LineTurns, "Lines set off from the rest; `9 then 10-11` on slides in turn."] = ()
    fence: Annotated[Truth, "Show the chunk's own fence as written."] = False
    rerun: Annotated[Literal["stale", "always"], "`always` for what reads the clock or the network."] = "stale"
    reads: Annotated[SeveralWords, "Globs of files it depends on, beside those found automatically."] = ()
    uses: Annotated[SeveralWords, "Names that chunks of other languages above have written."] = ()
    from_: Annotated[Words, "The database that SQL is for, as `databases` calls it; one in memory otherwise."] = ""
    reads_state: Annotated[
        Words,
        "A question to a server whose answer is another whenever what the chunk reads is: `select max(changed) from loans`.",
    ] = ""
    into: Annotated[Words, "The name that what SQL finds is bound to, as a data frame."] = ""
    keep: Annotated[Literal["auto", "yes", "no"], "Whether its values are stored."] = "auto"
    where: Annotated[
        Literal["here", "cluster"],
        "`cluster` has it run on a worker of the cluster at `workers-at`, where one is named.",
    ] = "here"
    when: Annotated[Words, "An expression over `given`; run and shown only if it is true."] = ""
    timeout: Annotated[Duration, "The longest the chunk may run."] = None
    seed: Annotated[Whole | None, "Seed of random numbers."] = None


class Author(Struct, frozen=True):
    """One author."""

    name: Words
    affiliation: Annotated[Several, "One affiliation, or a list."] = ()
    email: Words = ""
    corresponding: Annotated[Truth, "Whether letters about the paper go here."] = False


def _author(value: object) -> object:
    return {"name": value} if isinstance(value, str) else value


def _or_name(value: dict[str, object]) -> dict[str, object]:
    return {"anyOf": [{"type": "string"}, value]}


if TYPE_CHECKING:
    Press = Any
else:
    Press = press_settings()


Severity = Literal["error", "warning", "off"]


class Check(Struct, frozen=True):
    """How grave each finding of `worn check` is."""

    code: Annotated[Severity, "Code that is no Python."] = "error"
    labels: Annotated[Severity, "Pointers and links to labels that nothing has."] = "error"
    citations: Annotated[Severity, "Citations without an entry."] = "error"
    formulas: Annotated[Severity, "Formulas that cannot be read."] = "error"
    images: Annotated[Severity, "Images that are not there, or are broken."] = "error"
    files: Annotated[Severity, "Files that code reads and that are not there."] = "error"
    names: Annotated[Severity, "Names used where no chunk has written them yet."] = "error"
    packages: Annotated[Severity, "Packages that are used and not installed."] = "error"
    alternative_text: Annotated[Severity, "Images and figures that have no words for those who cannot see them."] = (
        "warning"
    )
    givens: Annotated[Severity, "Givens that nothing uses."] = "warning"
    absolute_paths: Annotated[Severity, "Paths that hold on one machine only."] = "warning"
    chance: Annotated[Severity, "The clock, and chance that no seed reaches."] = "warning"
    listings: Annotated[Severity, "Listings that look as if they were meant to run."] = "warning"
    prices: Annotated[Severity, "Sums of money that are taken for formulas."] = "warning"
    headings: Annotated[Severity, "Headings that say the same in one place."] = "warning"
    captions: Annotated[Severity, "Lines that look like captions, and are paragraphs."] = "warning"
    typed_numbers: Annotated[Severity, "Numbers typed by hand that the page has computed."] = "warning"
    long_lines: Annotated[Severity, "Shown lines of code that sheets would break."] = "warning"
    figure_sizes: Annotated[Severity, "Figures wider than the text."] = "warning"


Authors = Annotated[tuple[Annotated[Author, Read(_author, _or_name)], ...], Read(alone, or_one)]


class ProgramSettings(Struct, frozen=True):
    """A program that runs chunks."""

    command: Annotated[
        Words, "What is called; `{file}` stands for a file with the chunk, which otherwise comes on standard input."
    ] = ""
    suffix: Annotated[Words, "What such files end in, such as `.gp`."] = ""
    comment: Annotated[Words, "What begins a comment."] = "#"


class RSettings(Struct, frozen=True):
    """How sessions of R are started."""

    program: Annotated[Words, "The program, by its path or name; `R` otherwise."] = ""


class Limits(Struct, frozen=True):
    """What a page may use up."""

    memory: Annotated[Size | None, "Memory that one session may take: `2 GB`; what the machine has otherwise."] = None
    time: Annotated[Duration, "The longest a report may take at a desk: `10 min`."] = None


class TeamStore(Struct, frozen=True):
    """A store that a team shares."""

    at: Annotated[Words, "A folder that all can reach, or `s3://bucket/prefix`."] = ""
    endpoint: Annotated[Words, "The address of the server that has the bucket, where it is one of your own."] = ""
    region: Annotated[Words, "The region of the bucket, where the server wants one."] = ""
    send: Annotated[Truth, "Whether what is run here is sent there."] = True


def _at(value: object) -> object:
    """A store that is said by its address alone."""
    return {"at": value} if isinstance(value, str) else value


class FigureSettings(Struct, frozen=True):
    """How figures are drawn."""

    look: Annotated[
        Literal["library", "page"],
        "As the library draws them, or with the page's letters, sizes and colours, in the dark too.",
    ] = "library"


class DeskSettings(Struct, frozen=True):
    """The page at a desk, where readers pick given values."""

    offers: Annotated[SeveralWords, "What readers may take with them, beside the page itself: outputs by name."] = (
        "pdf",
        "docx",
    )


class CommonSettings(Struct, frozen=True, kw_only=True):
    """What the front matter of a page and the `worn.yaml` of its project may both set."""

    authors: Annotated[Authors, "Names, or mappings with name, affiliation and email."] = ()
    date: Annotated[Words, "Any text, or `when-pressed` for the day of pressing."] = ""
    keywords: Annotated[SeveralWords, "A list, or words with commas between."] = ()
    language: Annotated[Words, "Language of the page as a BCP 47 tag."] = "en"
    language_of_values: Annotated[
        Words, "The language of `{= …}` and of what inserts are given; that of the first chunk otherwise."
    ] = ""
    stationery: Annotated[Words, "The looks of the page."] = "report"
    section_numbers: Annotated[Truth, "Number the headings."] = True
    seed: Annotated[Whole, "What the seeds of all chunks are made from."] = 1
    threads: Annotated[
        Annotated[Whole, Between(1, 1024)] | None, "Threads of numerical libraries; the machine's own number otherwise."
    ] = None
    chunks_at_once: Annotated[
        Annotated[Whole, Between(1, 1024)] | None,
        "Chunks that may run side by side where none needs the other; `1` for one after the other, as many as there are processors otherwise.",
    ] = None
    workers_at: Annotated[
        Words, "The address of a Dask scheduler whose workers run chunks that say `where=cluster`: `tcp://head:8786`."
    ] = ""
    store: Annotated[
        TeamStore,
        Read(_at, _or_name),
        "A store that a team shares, beside the page's own: a folder or `s3://bucket/prefix`.",
    ] = TeamStore()
    store_limit: Annotated[Size, "How large the store may grow before old traces go."] = 5 * 10**9
    bibliography: Annotated[Paths, "Files with entries to cite: BibTeX, BibLaTeX or CSL-JSON."] = ()
    library: Annotated[
        Paths,
        "Your own collection of works, as it was exported: searched while you write, and never cited from itself.",
    ] = ()
    citation_style: Annotated[
        Words, "How works are cited: `author-year`, `numbered`, a CSL file, or the name of an installed style."
    ] = "author-year"
    macros: Annotated[
        dict[MacroName, Words], "Commands of your own in mathematics: `R: \\mathbb{R}`, `E: \\operatorname{E}[#1]`."
    ] = {}
    languages: Annotated[dict[str, ProgramSettings], "Programs that run chunks, by the word behind the fence."] = {}
    python: Annotated[
        Words,
        "The environment of Python's sessions: a folder or a program; `own` for that of Worn Page. A `.venv` beside the page is taken unasked.",
    ] = ""
    r: Annotated[RSettings, "How sessions of R are started."] = RSettings()
    databases: Annotated[
        dict[str, Words], "Databases by name: a file, `memory`, or a URL, in which no password stands."
    ] = {}
    limits: Annotated[Limits, "What a page may use up."] = Limits()
    figures: Annotated[FigureSettings, "How figures are drawn."] = FigureSettings()
    desk: Annotated[DeskSettings, "The page at a desk."] = DeskSettings()
    insert_from: Annotated[Paths, "Folders outside the project whose files may be inserted."] = ()
    check: Annotated[Check, "How grave the findings of `worn check` are."] = Check()
    press: Press = Press()
    chunks: Annotated[dict[str, ChunkOptions], "Options for `all:` chunks, or by label."] = {}


class SharedSettings(CommonSettings, frozen=True, kw_only=True):
    """What may be set for several pages at once."""

    given: Annotated[dict[str, object], "Values for the givens that pages declare."] = {}


class Delivery(Struct, frozen=True):
    """A place that outputs are delivered to."""

    pages: Annotated[Paths, "Pages, from the folder of this file; `*` stands for any letters."] = ()
    volumes: Annotated[
        Paths, "Volumes, by their folders or files. What they are bound to lies at the top of the place."
    ] = ()
    outputs: Annotated[SeveralWords, "Their outputs; the usual one otherwise."] = ()
    folder: Annotated[Words, "A folder to put them into."] = ""
    server: Annotated[Words, "A folder of a server that speaks SFTP: `sftp://user@host/folder`."] = ""
    branch: Annotated[Words, "A branch of the repository's own remote to commit them to."] = ""
    remote: Annotated[Words, "Which remote that is."] = "origin"


class ProjectSettings(SharedSettings, frozen=True, kw_only=True):
    """The `worn.yaml` of a project: settings for all its pages."""

    deliver: Annotated[dict[str, Delivery], "Places that `worn deliver` puts outputs to, by their names."] = {}


def _by_words(value: object) -> object:
    """Expressions by the words for them; an expression alone speaks for itself."""
    if isinstance(value, str):
        value = [value]
    return {str(item): item for item in value} if isinstance(value, list) else value


def _or_list(value: dict[str, object]) -> dict[str, object]:
    return {"anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}}, value]}


class Editions(Struct, frozen=True):
    """Which sets of given values a page is pressed for."""

    sets: Annotated[tuple[dict[str, object], ...], "A list of mappings: name of a given to value."] = ()
    table: Annotated[OneFile, "A CSV, JSON or Excel file: a column a given, a row an edition."] = ""
    combine: Annotated[dict[str, object], "Lists of values by given: all combinations."] = {}
    expression: Annotated[Words, "Python over what the page has loaded: mappings, or a data frame's rows."] = ""
    where: Annotated[Words, "Only those for which this is true."] = ""
    title: Annotated[Words, "The title of the index."] = ""
    name: Annotated[Words, "What each is called, such as `{= given.branch}-{= given.year}`."] = ""
    headline: Annotated[
        dict[str, Words],
        Read(_by_words, _or_list),
        "Expressions whose values the index shows; a list, or by the words for them.",
    ] = {}


class PageSettings(CommonSettings, frozen=True, kw_only=True):
    """The front matter of a page."""

    title: Annotated[Words, "The page's title; marks see the final state."] = ""
    subtitle: Annotated[Words, "A line under the title."] = ""
    running_title: Annotated[Words, "A short title for the heads of sheets."] = ""
    abstract: Annotated[Words, "A summary, in Markdown with marks."] = ""
    given: Annotated[dict[str, object], "Parameters of the page."] = {}
    editions: Editions = Editions()
