"""Binding for someone at the terminal. Knows nothing of how the command line is read."""

from __future__ import annotations

import json
import time
from functools import partial
from pathlib import Path

from wornpage.cli.plain import say_unchanged
from wornpage.cli.say import say, say_problems, seconds
from wornpage.tree.project import VOLUME_FILE

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.volume.binding import Bound, Wish
    from wornpage.volume.reading import Entry
    from wornpage.volume.work import DraftReport


class Asked:
    """What `worn bind` was asked for; see its help."""

    def __init__(
        self,
        volume: Path = Path(),
        kinds: str = "html",
        only: tuple[str, ...] = (),
        out: Path | None = None,
        afresh: bool = False,
        jobs: int | None = None,
        as_json: bool = False,
        then_open: bool = False,
        each: bool = False,
        workers_at: str | None = None,
    ) -> None:
        self.workers_at = workers_at
        self.volume, self.only, self.out, self.afresh, self.jobs = volume, only, out, afresh, jobs
        self.as_json, self.then_open, self.each = as_json, then_open, each
        self.outputs = tuple(kind.strip().lower() for kind in kinds.split(",") if kind.strip()) or ("html",)
        """The kinds, apart."""


def bind_wanted(asked: Asked) -> int:
    """Bind, and tell about it. The exit status; a volume at fault raises `PageError` unless JSON was asked for."""
    file = _file(asked.volume)
    quick = not (asked.each or asked.only or asked.afresh or asked.then_open)
    if quick and _is_right(file, asked.outputs, asked.out, asked.as_json):
        return 0
    from wornpage.tree.problem import PageError
    from wornpage.volume.binding import Wish

    wish = Wish(file, asked.outputs, asked.out, asked.only, asked.afresh, asked.jobs, asked.each)
    try:
        bound = _bound(wish, asked)
    except PageError as error:
        if not asked.as_json:
            raise
        print(json.dumps({"outputs": [], "pages": [], "problems": [one.to_data() for one in error.problems]}, indent=2))
        return 1
    if asked.then_open and bound.files:
        from wornpage.cli.pressing import open_file

        open_file(bound.files[0].path)
    return 1 if bound.failed else 0


def _file(place: Path) -> Path:
    """The `volume.yaml` that is meant."""
    path = place / VOLUME_FILE if place.is_dir() else place
    if path.is_file():
        return path
    from wornpage.volume.reading import no_volume

    raise no_volume(path)


def _is_right(file: Path, outputs: tuple[str, ...], out: Path | None, as_json: bool) -> bool:
    """Whether all is as it was last bound; if so, say it. Looked at before anything else is imported."""
    from wornpage.press.abroad import BOUND
    from wornpage.volume.standing import still_bound

    begun = time.perf_counter()
    folder = (out or file.parent / BOUND).absolute()
    found = still_bound(file.absolute(), list(outputs), folder, time.strftime("%Y-%m-%d"))
    if found is None:
        return False
    say_unchanged(found, begun, {"pages": [], "problems": [], "taken-away": []} if as_json else None)
    return True


def _bound(wish: Wish, asked: Asked) -> Bound:
    """Bind, and tell about it."""
    from wornpage.cli.edition_progress import Progress
    from wornpage.volume.binding import bind as bind_volume
    from wornpage.volume.binding import volume_of

    begun = time.perf_counter()
    volume = volume_of(wish)
    with Progress(len(volume.entries), silent=asked.as_json, noun="page") as progress:

        def told(entry: Entry, report: DraftReport) -> None:
            progress.done(called(entry), report)

        elsewhere = None
        if asked.workers_at is not None:
            from wornpage.press.cluster import press_on_cluster

            elsewhere = partial(press_on_cluster, address=asked.workers_at)
        bound = bind_volume(volume, wish, progress.at, told, elsewhere=elsewhere)
    if asked.as_json:
        print(json.dumps(_data(bound), ensure_ascii=False, indent=2))
    else:
        _tell(bound, time.perf_counter() - begun)
    return bound


def called(entry: Entry) -> str:
    """What a page of a volume is called in the terminal."""
    return f"{entry.name} ({entry.edition})" if entry.edition else entry.name


def _tell(bound: Bound, took: float) -> None:
    """The main files on standard output, the rest on standard error."""
    for _, report in bound.reports:
        say_problems(report.problems)
    say_problems(bound.problems)
    for name in bound.gone:
        say(f"taken away: {name}, which is no part of this volume any more")
    for one in bound.files:
        print(f"{one.path}{'' if one.written else '  (unchanged)'}")
    reports = [report for _, report in bound.reports]
    failed = sum(report.failed for report in reports)
    right = sum(report.is_unchanged for report in reports)
    ran = sum(report.ran for report in reports)
    counts = [f"{len(reports) - failed - right} pages pressed", f"{right} already right", f"{failed} failed"]
    shown = [count for count in counts if not count.startswith("0 ")] or ["no pages"]
    say(f"bound: {', '.join(shown)}, {ran} chunks run, {len(bound.changed)} files written, {seconds(took)}")


def _data(bound: Bound) -> dict[str, object]:
    return {
        "outputs": [{"kind": one.kind, "path": str(one.path), "written": one.written} for one in bound.files],
        "pages": [
            {
                "page": entry.name,
                "edition": entry.edition,
                "number": entry.chapter.number,
                "outcome": "failed" if report.failed else "unchanged" if report.is_unchanged else "pressed",
                "chunks": {"ran": report.ran, "reused": report.reused},
                "seconds": round(report.seconds, 6),
                "problems": [one.to_data() for one in report.problems],
            }
            for entry, report in bound.reports
        ],
        "problems": [one.to_data() for one in bound.problems],
        "taken-away": bound.gone,
    }
