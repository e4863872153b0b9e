"""Try the steps of a made-up page: pressed with the store, and from nothing."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, NamedTuple
from unittest.mock import patch

from tests.beside import side_by_side
from tests.hazards import difference, other_files, write_files
from tests.law.package import install
from tests.law.pages import Maker, PageState
from wornpage.plan.codes import Sight, sight_of
from wornpage.plan.nursery import Nursery
from wornpage.plan.status import status_of
from wornpage.press import Order, prepare, press_order
from wornpage.source import read_page
from wornpage.store.place import store_of
from wornpage.team.sending import send
from wornpage.tree.problem import PageError

MEMORY = Path("/dev/shm")
"""Files in memory, where the system has them: thousands of small ones are made and thrown away."""


@dataclass
class Trial:
    """What came of one made-up page."""

    seed: int
    fault: str = ""
    """The first step that broke the law, in words; empty for none."""
    ran: int = 0
    """Chunks that ran after an edit."""
    chances: int = 0
    """Chunks of which it is known that the edit did not touch them."""
    needless: int = 0
    """Those of them that ran all the same."""
    which: list[str] = field(default_factory=list)
    had: int = 0
    """Chunks that were had from the team."""
    ahead: int = 0
    """Chunks of which what they came to before their turn was taken."""


def try_seed(seed: int, team: bool = False, at_once: int | None = None) -> Trial:
    """Make the page of a seed and try it; with a `team`, also as somebody who has only what is shared.

    Where the page is pressed with its store, `at_once` chunks may run side by side: if it is not said, three for every eighth seed.
    """
    maker = Maker(seed)
    at_once = at_once or (1 if seed % 8 else 3)
    try:
        return try_steps(maker.steps(), seed, apart=maker.islands > 1, team=team, at_once=at_once)
    except Exception as fault:  # one of ours breaks the law too
        return Trial(seed, f"{type(fault).__name__}: {fault}")


def try_steps(
    steps: Sequence[PageState], seed: int = 0, apart: bool = False, team: bool = False, at_once: int = 1
) -> Trial:
    """Press every step both ways. `apart` tells that names of other letters have nothing to do with each other."""
    trial = Trial(seed)
    with tempfile.TemporaryDirectory(prefix="law", dir=MEMORY if MEMORY.is_dir() else None) as place:
        bench = _Bench(Path(place), team, at_once)
        for number, step in enumerate(steps):
            bench.lay(step)
            stale = bench.first_stale() if number else None
            for edition in ("", *step.editions):
                made, wanted = bench.pressed_both_ways(edition, from_nothing=not number and not edition)
                trial.fault = _fault(f"step {number}{edition and ', edition ' + edition}", made, wanted)
                trial.fault = trial.fault or (bench.other and f"step {number}: {bench.other}")
                is_told = made.whole or stale in (None, (made.ran or [""])[0])
                if team and not trial.fault and wanted.record:
                    had = bench.pressed_by_another(edition)
                    trial.had += sum(1 for _ in wanted.ran) - len(had.ran)
                    trial.fault = _fault(f"step {number}, had from the team", had, wanted)
                if not trial.fault and not edition and not is_told and made.record:
                    trial.fault = f"step {number}: status says {stale} is the first that is stale, but {made.ran} ran"
                if trial.fault:
                    return trial
                if number and not edition:
                    _count(trial, made.ran, step, steps[number - 1], apart)
            bench.nursery.close()
        trial.ahead = bench.ahead
    return trial


def _fault(where: str, made: Pressed, wanted: Pressed) -> str:
    """How what was made differs from what is made from nothing, in words; empty for not at all."""
    if made.text != wanted.text:
        return f"{where}: {difference(made.text, wanted.text)}"
    if made.record != wanted.record:
        return f"{where}, record: {_first_difference(made.record, wanted.record)}"
    return ""


def _count(trial: Trial, ran: list[str], step: PageState, before: PageState, apart: bool) -> None:
    """Add what ran, and what of it need not have: chunks of which it is known that the edit did not touch them."""
    trial.ran += len(ran)
    # When code begins to ask for identity, all must run once: that was never noted for it.
    alike = _sight(step).identity <= _sight(before).identity
    if apart and alike and len(step.touched) == 1:
        same = {c.label for c in step.chunks if c.island not in step.touched and c.options != "rerun=always"}
        trial.chances += len(same)
        trial.needless += len(same & set(ran))
        trial.which += sorted(same & set(ran))


def _sight(step: PageState) -> Sight:
    return sight_of([("python", chunk.code) for chunk in step.chunks])


class Pressed(NamedTuple):
    """The output of a page, or its error; its record; the labels of the chunks that ran."""

    text: str
    record: Any
    ran: list[str]
    whole: bool = False
    """Whether all ran since something that had to run again made something else: nobody can know that before."""


class _Bench:
    """A folder in which a page is pressed again and again with its store, and copies of it without."""

    def __init__(self, place: Path, team: bool = False, at_once: int = 1) -> None:
        self.place, self.at_once, self.ahead = place, at_once, 0
        self.other = ""
        """Files that were others where the page was last pressed from nothing."""
        self.shelf = place / "shelf"
        if team:
            self.shelf.mkdir()
        self.folder = place / "kept"
        self.folder.mkdir()
        self.packages = place / "site-packages" / "law-packages"
        self.nursery = Nursery()

    def lay(self, step: PageState) -> None:
        """Put the page and the files of a step in their places."""
        self.nursery = Nursery()
        with suppress(FileNotFoundError):
            write_files(self.folder, dict(step.files))
        (self.folder / "page.md").write_text(step.text, encoding="utf-8")
        if self.shelf.exists():
            (self.folder / "worn.yaml").write_text(f"store: {self.shelf}\n")
        install(self.packages, step.package)

    def first_stale(self) -> str | None:
        """The first chunk that must run, as `worn status` says; empty for none. None where the page is at fault."""
        page = self.folder / "page.md"
        try:
            source = read_page(page, str(page))
            settings, _, _ = prepare(source)
        except PageError:
            return None
        return next((chunk.label for chunk in status_of(source, settings).chunks if not chunk.fresh), "")

    def pressed_both_ways(self, edition: str, from_nothing: bool = False) -> tuple[Pressed, Pressed]:
        """The page as it is now, pressed with its store, and from nothing: that is one pressing where the store is empty yet."""
        clean = self.place / "clean" / "kept"
        shutil.copytree(
            self.folder,
            clean,
            symlinks=True,
            ignore=shutil.ignore_patterns(".worn", "__pycache__", "*.html", "worn.yaml"),
        )
        with side_by_side(self.at_once) as taken:
            made = _pressed(self.folder, edition, self.nursery)
        self.ahead += len(taken)
        if self.shelf.exists():  # what somebody else begins with
            shutil.rmtree(self.place / "before", ignore_errors=True)
            shutil.copytree(clean, self.place / "before", symlinks=True)
        with side_by_side(1):
            wanted = made if from_nothing and not taken else _pressed(clean, edition, None)
        self.other = other_files(self.folder, clean) if wanted is not made and made.record and wanted.record else ""
        shutil.rmtree(clean.parent)
        return made, wanted

    def pressed_by_another(self, edition: str) -> Pressed:
        """The page as somebody presses it who has nothing but what was shared."""
        with patch("wornpage.team.pace._NEAR", 1e15), patch("wornpage.team.pace._LATENCY", 0.0):
            send(store_of(self.folder / "page.md"))
            other = self.place / "other" / "kept"
            shutil.copytree(self.place / "before", other, symlinks=True)
            shutil.copy(self.folder / "worn.yaml", other)
            had = _pressed(other, edition, None)
        shutil.rmtree(other.parent)
        return had


def _pressed(folder: Path, edition: str, nursery: Nursery | None) -> Pressed:
    page = folder / "page.md"
    shared = (folder / "worn.yaml").exists()
    given = {"g": len(edition), "h": edition} if edition else {}
    try:
        with patch("wornpage.press.story.send_aside"), patch("wornpage.team.sending.LEAST", 0.0 if shared else 9.9):
            done = press_order(Order(page, str(page), given=given, edition=edition, nursery=nursery))
    except PageError as error:
        return Pressed(f"error: {error}".replace(str(folder), ""), None, [])
    finally:
        os.chdir("/")
    ran = [chunk.label for chunk in done.chunks if chunk.outcome != "reused"]
    whole = any(chunk.why == "everything runs afresh" for chunk in done.chunks)
    return Pressed(done.outputs[0].path.read_text(encoding="utf-8"), done.colophon.to_data(), ran, whole)


def _first_difference(made: Any, wanted: Any) -> str:
    for key in wanted or {}:
        if (made or {}).get(key) != wanted[key]:
            return f"{key}: {str((made or {}).get(key))[:300]} instead of {str(wanted[key])[:300]}"
    return f"{made} instead of {wanted}"


def smaller(seed: int, patience: int = 60) -> list[PageState]:
    """The steps of a seed that breaks the law, without what is not needed for that."""
    steps = Maker(seed).steps()
    kept = _cut_steps(steps)
    for _ in range(patience):
        less = next((fewer for fewer in _without_one(kept) if try_steps(fewer).fault), None)
        if less is None:
            break
        kept = less
    return kept


def _cut_steps(steps: list[PageState]) -> list[PageState]:
    while len(steps) > 2 and try_steps(steps[:-1]).fault:
        steps = steps[:-1]
    return steps


def _without_one(steps: list[PageState]) -> Any:
    """The same steps without a chunk, in every step that has it; or without a step, or a mark."""
    from dataclasses import replace

    for at in range(1, len(steps) - 1):
        yield steps[:at] + steps[at + 1 :]
    labels = {chunk.label: None for step in steps for chunk in step.chunks}
    for label in labels:
        fewer = [replace(step, chunks=tuple(c for c in step.chunks if c.label != label)) for step in steps]
        if all(step.chunks for step in fewer):
            yield fewer
    for label in labels:
        if any(c.mark for step in steps for c in step.chunks if c.label == label):
            yield [
                replace(step, chunks=tuple(replace(c, mark="") if c.label == label else c for c in step.chunks))
                for step in steps
            ]
    for less in ({"insert": 0}, {"editions": ()}, {"package": 1}):
        fewer = [replace(step, **less) for step in steps]
        if fewer != steps:
            yield fewer
