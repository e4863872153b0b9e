"""Everything that may be set in a page, with its type, default and meaning."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from wornpage.settings.kinds import (
    Align,
    Count,
    Duration,
    Length,
    LineSet,
    Paths,
    Percentage,
    SeveralWords,
    Size,
    Truth,
    Whole,
    Words,
    alone,
)


def _hyphens(name: str) -> str:
    return name.replace("_", "-")


class Model(BaseModel):
    """Keys are written with hyphens; an unknown key is a fault."""

    model_config = ConfigDict(extra="forbid", frozen=True, alias_generator=_hyphens)


class ChunkOptions(Model):
    """What may follow the label in a chunk's header, or stand under `chunks:`."""

    show: Literal["all", "source", "output", "nothing"] = Field("all", description="What readers see.")
    notices: Truth = Field(True, description="Show warnings, messages and standard error.")
    on_error: Literal["stop", "show"] = Field(
        "stop", description="Stop the pressing, or print the error in the page and go on."
    )
    width: Length | None = Field(None, description="Real width of figures.")
    height: Length | None = Field(None, description="Real height of figures.")
    scale: Percentage = Field(1.0, validate_default=False, description="How large figures are shown.")
    dpi: Annotated[Whole, Field(ge=20, le=2400)] = Field(200, description="Dots an inch of raster figures.")
    align: Align = Field("centre", description="Where figures and tables stand between the margins.")
    alt: Words = Field("", description="Alternative text of figures; the caption's words otherwise.")
    tuck: Truth = Field(False, description="Tuck the code away behind its label.")
    line_numbers: Truth = Field(False, description="Number the lines of code.")
    pick_out: LineSet = Field((), validate_default=False, description="Lines set off from the rest.")
    fence: Truth = Field(False, description="Show the chunk's own fence as written.")
    rerun: Literal["stale", "always"] = Field("stale", description="`always` for what reads the clock or the network.")
    reads: SeveralWords = Field([], description="Globs of files it depends on, beside those found automatically.")
    keep: Literal["auto", "yes", "no"] = Field("auto", description="Whether its values are stored.")
    when: Words = Field("", description="An expression over `given`; run and shown only if it is true.")
    timeout: Duration = Field(None, description="The longest the chunk may run.")
    seed: Whole | None = Field(None, description="Seed of random numbers.")
    decimals: Annotated[Count, Field(le=15)] | None = Field(None, description="Decimals of shown values and tables.")
    max_lines: Count = Field(200, description="Lines of printed output that are shown.")


class Author(Model):
    """One author."""

    name: Words
    affiliation: Paths = Field([], description="One affiliation, or a list.")
    email: Words = ""


def _author(value: Any) -> Any:
    return {"name": value} if isinstance(value, str) else value


class HtmlPress(Model):
    """Settings of the HTML output."""

    contents: Literal["side", "above", "none"] = Field("side", description="Where the table of contents stands.")
    colophon: Truth = Field(False, description="End with the record of how the page was made.")


class PdfPress(Model):
    """Settings of the PDF output."""

    paper: Literal["a4", "letter"] = Field("a4", description="Size of the sheets.")
    contents: Truth = Field(False, description="Print a table of contents after the title.")
    colophon: Truth = Field(False, description="End with the record of how the page was made.")
    fonts: Paths = Field([], description="Folders with further font files, relative to the page.")


class Press(Model):
    """Settings of the outputs."""

    html: HtmlPress = HtmlPress()
    pdf: PdfPress = PdfPress()


class PageSettings(Model):
    """The front matter of a page."""

    title: Words = Field("", description="The page's title; marks see the final state.")
    subtitle: Words = ""
    authors: Annotated[list[Annotated[Author, BeforeValidator(_author)]], BeforeValidator(alone)] = Field(
        [], description="Names, or mappings with name, affiliation and email."
    )
    date: Words = Field("", description="Any text, or `when-pressed` for the day of pressing.")
    abstract: Words = ""
    keywords: SeveralWords = Field([], description="A list, or words with commas between.")
    language: Words = Field("en", description="Language of the page as a BCP 47 tag.")
    stationery: Words = Field("report", description="The looks of the page.")
    section_numbers: Truth = Field(True, description="Number the headings.")
    seed: Whole = Field(1, description="What the seeds of all chunks are made from.")
    threads: Annotated[Whole, Field(ge=1, le=1024)] | None = Field(
        None, description="Threads of numerical libraries; the machine's own number otherwise."
    )
    store_limit: Size = Field(
        5 * 10**9, validate_default=False, description="How large the store may grow before old traces go."
    )
    given: dict[str, Any] = Field({}, description="Parameters of the page.")
    bibliography: Paths = Field([], description="Files with entries to cite.")
    press: Press = Press()
    chunks: dict[str, ChunkOptions] = Field({}, description="Options for `all:` chunks, or by label.")
