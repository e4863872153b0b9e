"""The outputs of a pressing, from a composed page to files."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from wornpage.colophon import Colophon, colophon_blocks, with_fonts
from wornpage.compose.language import language_of
from wornpage.lineage.steps import Lineage
from wornpage.output.atomic import IsSource, spare, write_file
from wornpage.output.kind import Controls, Job, Result, Written
from wornpage.output.outputs import names, options_in, output_of
from wornpage.output.writing import write_as
from wornpage.press.orders import Order, Output
from wornpage.settings import PageSettings
from wornpage.source import Page
from wornpage.tree.nodes import Composed
from wornpage.tree.problem import PageError, Problem, UsageError, near_miss
from wornpage.tree.span import Span


def tells_origins(kind: str, settings: PageSettings) -> bool:
    """Whether readers of an output may ask where things come from."""
    return bool(getattr(options_in(settings, kind), "origins", False))


def check_outputs(outputs: Sequence[str]) -> None:
    """Raise `UsageError` for an output that there is not."""
    for kind in outputs:
        if kind not in names():
            hint = near_miss(kind, names()) or f"There are: {', '.join(names())}."
            raise UsageError(f"there is no output {kind!r}. {hint}")


class Along(Struct, frozen=True):
    """What goes along with a page to its outputs."""

    stem: str = ""
    """What they are called, without a suffix."""
    controls: Controls | None = None
    results: Mapping[str, Result] = {}
    lineage: Lineage | None = None


def write_all(
    pages: Mapping[str, Composed], colophon: Colophon, settings: PageSettings, source: Page, along: Along
) -> tuple[dict[str, Written], Colophon]:
    """All outputs, each from the page as it has it, and the colophon with the fonts of this machine that they have letters from."""
    made = {kind: write_one(kind, page, colophon, settings, source, along) for kind, page in pages.items()}
    fonts = sorted({path for one in made.values() for path in one.fonts})
    if not fonts:
        return made, colophon
    colophon = with_fonts(colophon, fonts)
    again = {
        kind: write_one(kind, page, colophon, settings, source, along)
        for kind, page in pages.items()
        if _ends_with_it(kind, settings)
    }
    return made | again, colophon


def _ends_with_it(kind: str, settings: PageSettings) -> bool:
    """Whether an output has the colophon at its end."""
    return bool(getattr(options_in(settings, kind), "colophon", False))


def write_one(
    kind: str, composed: Composed, colophon: Colophon, settings: PageSettings, source: Page, along: Along
) -> Written:
    """One output; with the colophon at its end if the page asks for it there. One that cannot be made has an error among its problems."""
    composed = with_colophon(kind, composed, colophon, settings, source)
    job = Job(
        settings, source.path.parent, source.name, apart_from(source.path, along.stem, kind), source.text,
        controls=along.controls, results=along.results, lineage=along.lineage,
    )  # fmt: skip
    try:
        return write_as(kind, composed, job)
    except PageError as error:  # which is no fault of the outputs beside it
        return Written(b"", tuple(error.problems))


def with_colophon(kind: str, composed: Composed, colophon: Colophon, settings: PageSettings, source: Page) -> Composed:
    """A page as an output ends it."""
    if not _ends_with_it(kind, settings):
        return composed
    place = Span(source.name, source.text.count("\n") + 1)
    return replace(
        composed, blocks=(*composed.blocks, *colophon_blocks(colophon, language_of(settings.language), place))
    )


def target_of(order: Order, page: Path, kind: str) -> Path:
    """The main file of an output."""
    return (order.folder or page.parent) / f"{apart_from(page, stem_of(order, page), kind)}{output_of(kind).suffix}"


def apart_from(page: Path, stem: str, kind: str) -> str:
    """What an output is called, without its suffix, so that it is never the page itself: a LaTeX source has its results in another."""
    own = stem == page.stem and output_of(kind).suffix == page.suffix
    return f"{stem}.pressed" if own else stem


def stem_of(order: Order, page: Path) -> str:
    """What the outputs of a page are called, without a suffix."""
    return order.edition or page.stem


def check_target(target: Path, page: Path, sources: Iterable[Path]) -> None:
    """Raise `UsageError` if an output would write over what it is made from."""
    try:
        spare(target, sources)
    except IsSource as error:
        hint = (
            "Call the page something that ends in `.md`."
            if target.suffix == page.suffix
            else "Choose another folder with --out."
        )
        raise UsageError(f"{target} stays as it is: {error.strerror}. {hint}") from None


def put(kind: str, source: Page, order: Order, made: Written) -> Output:
    """Write an output and what belongs to it. Raises `PageError` where that cannot be."""
    target = target_of(order, source.path, kind)
    beside = tuple(_below(target, name) for name in made.beside)
    for path, data in zip(beside, made.beside.values(), strict=True):
        put_file(path, data, source.name)
    return Output(kind, target, put_file(target, made.data, source.name), beside, made.read)


def put_file(path: Path, data: bytes, page: str) -> bool:
    """Write a file of the page called so, in a folder made for it; whether it is new. Raises `PageError` where that cannot be."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        return write_file(path, data)
    except (FileExistsError, NotADirectoryError):
        why = "a file stands where its folder should be"
    except OSError as error:
        why = error.strerror or str(error)
    raise PageError([Problem(Span(page, 1), f"{path} cannot be written: {why}.")])


def _below(target: Path, name: str) -> Path:
    """Where a further file of an output goes: into a folder that is called after the main one, and nowhere else."""
    folder = target.parent / f"{target.stem}-files"
    path = (folder / name).resolve()
    if not path.is_relative_to(folder.resolve()):
        raise ValueError(f"an output wants to write outside its folder: {name!r}")
    return path
