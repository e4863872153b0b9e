"""The pages that a desk offers, read anew whenever they, or what their choices come from, have changed."""

from __future__ import annotations

import re
import threading
from collections.abc import Mapping, Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from wornpage.compose import Head
from wornpage.output.outputs import names, output_of
from wornpage.press import examine
from wornpage.serving.loopback import stamps
from wornpage.settings import Settings
from wornpage.settings.givens import Declared, GivenFault, as_written, chosen, missing
from wornpage.source import read_page
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError, Problem, Severity, UsageError, near_miss
from wornpage.tree.project import project_files_looked_for
from wornpage.tree.walk import rewrite, words_of

_ELSEWHERE = "\ue000"
"""Stands for what points elsewhere."""
_ASIDE = re.compile(rf"\s*[(\[][\s,;{_ELSEWHERE}]*[)\]]")
"""Brackets in which nothing stands but that."""


class Offer(Struct, frozen=True):
    """A page as readers see it before anything has run."""

    key: str
    """Its name in addresses."""
    path: Path
    title: str
    abstract: str
    declared: dict[str, Declared]
    given: dict[str, object]
    """Their values where nobody picks others."""
    kinds: tuple[str, ...]
    """The outputs to be had, the first of which is shown."""
    language: str
    seconds: float | None
    """The longest a report may take."""

    def wished(self, written: Mapping[str, object]) -> dict[str, object]:
        """Values as written, whole and in order, of those that were picked. Raises `Faults`."""
        values, _, faults = chosen(
            {name: _optional(one) for name, one in self.declared.items()},
            [("", {name: as_written(value) for name, value in self.given.items() if value is not None}), ("", written)],
        )
        found = {name: fault for _, name, fault in faults}
        for name, one in self.declared.items():
            if one.required and values[name] is None and name not in found:
                found[name] = GivenFault("a value is needed here.")
        if found:
            raise Faults(found)
        return {name: as_written(value) for name, value in values.items() if value is not None}


class Faults(Exception):
    """What is wrong with picked values, by name."""

    def __init__(self, faults: dict[str, GivenFault]) -> None:
        super().__init__(", ".join(fault.what for fault in faults.values()))
        self.faults = faults


class Shelf:
    """The offers of a desk."""

    def __init__(self, pages: Sequence[Path]) -> None:
        """Raises `UsageError` for pages that are not there."""
        for page in pages:
            if page.is_dir():
                raise UsageError(f"{page} is a folder; name the pages in it that the desk is for.")
            if not page.is_file():
                raise UsageError(f"there is no page {page}.")
        self._paths = _keyed(pages)
        self._known: dict[str, tuple[object, Offer]] = {}
        self._lock = threading.Lock()

    @property
    def keys(self) -> tuple[str, ...]:
        """What its offers go by, in their order."""
        return tuple(self._paths)

    def path(self, key: str) -> Path:
        """Where a page lies. Raises `KeyError`."""
        return self._paths[key]

    def offer(self, key: str) -> Offer:
        """An offer as it is now. Raises `KeyError`, and `PageError` for a page at fault."""
        path = self._paths[key]
        with self._lock:
            stamp, known = self._known.get(key, (None, None))
            if known is not None and stamp == _stamp(known):
                return known
            made = _read(key, path)
            self._known[key] = (_stamp(made), made)
            return made


def _keyed(pages: Sequence[Path]) -> dict[str, Path]:
    found: dict[str, Path] = {}
    for page in dict.fromkeys(page.resolve() for page in pages):
        stem = re.sub(r"[^\w-]+", "-", page.stem).strip("-") or "page"
        key, count = stem, 1
        while key in found:
            count += 1
            key = f"{stem}-{count}"
        found[key] = page
    return found


def _stamp(offer: Offer) -> object:
    files = [offer.path, *(Path(one.file) for one in offer.declared.values() if one.file)]
    return stamps([*files, *project_files_looked_for(offer.path)])


def _read(key: str, path: Path) -> Offer:
    source = read_page(path, path.name)
    settings, head, problems = examine(source)
    wrong = [one for one in problems if one.severity == Severity.ERROR and not _is_missing_value(one, settings)]
    wrong += _unknown_outputs(settings)
    if wrong:
        raise PageError(wrong)
    title = said_before(head.title) or path.stem
    return Offer(
        key, path, title, _abstract(head), settings.declared, settings.given, _kinds(settings),
        settings.page.language, settings.page.limits.time,
    )  # fmt: skip


def _is_missing_value(problem: Problem, settings: Settings) -> bool:
    """Whether all that is wrong is that a value must be given, which readers will do."""
    return any(problem.what == missing(name).what for name, one in settings.declared.items() if one.required)


def _optional(one: Declared) -> Declared:
    return replace(one, required=False)


def _unknown_outputs(settings: Settings) -> list[Problem]:
    """What is offered and cannot be had."""
    hint = f"There are: {', '.join(names())}."
    problems = []
    for at, kind in enumerate(settings.page.desk.offers):
        place = settings.place("desk", "offers", at)
        if kind not in names():
            problems.append(Problem(place, f"there is no output {kind!r}.", near_miss(kind, names()) or hint))
        elif getattr(output_of(kind), "has_folder", False):
            what = f"{kind!r} is a file with others beside it, which nobody can take along in one."
            problems.append(Problem(place, what))
    return problems


def _kinds(settings: Settings) -> tuple[str, ...]:
    known = [kind for kind in settings.page.desk.offers if kind in names()]
    return ("html", *(kind for kind in known if kind != "html"))


def _abstract(head: Head) -> str:
    first = next((block for block in head.abstract if isinstance(block, n.Paragraph)), None)
    return said_before(first.children) if first else ""


def said_before(words: n.Inlines) -> str:
    """Running text before anything has run: dots stand for values, and for what points elsewhere."""

    def change(node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        if isinstance(node, n.ValueMark):
            return n.Text(node.span, "…")
        return n.Text(node.span, _ELSEWHERE) if isinstance(node, n.PointerMark | n.CiteMark) else None

    return _ASIDE.sub("", words_of(rewrite(words, change))).replace(_ELSEWHERE, "…").strip()
