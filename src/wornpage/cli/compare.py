"""`worn compare`: what a change changed."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import msgspec
import typer

from wornpage.cli.arguments import AsJson, GivenValues
from wornpage.cli.given import given_for
from wornpage.cli.say import say
from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from wornpage.compare.changes import Comparison
    from wornpage.compare.versions import Version

_MOST = 40
"""Changes that are told in the terminal."""


def compare(
    page: Annotated[Path, typer.Argument(help="The page.", show_default=False)],
    with_: Annotated[
        str,
        typer.Option(
            "--with",
            metavar="RECORD",
            help="With something else than the last pressing that differs: `2` for the last but one, a commit, a file that --write has made.",
        ),
    ] = "",
    editions: Annotated[
        tuple[str, str] | None, typer.Option("--editions", metavar="ONE OTHER", help="One edition with another.")
    ] = None,
    fail_over: Annotated[
        str,
        typer.Option("--fail-over", metavar="SHARE", help="Exit with 1 if a number has changed by more, such as `1%`."),
    ] = "",
    report: Annotated[
        Path | None, typer.Option("--report", metavar="FILE", help="Where the page that shows it all goes.")
    ] = None,
    write: Annotated[
        Path | None,
        typer.Option("--write", metavar="FILE", help="Keep what the page shows now, to compare with later."),
    ] = None,
    outputs: Annotated[
        bool, typer.Option("--outputs", help="The outputs of the page with the page: whether they all say the same.")
    ] = False,
    given: GivenValues = None,
    as_json: AsJson = False,
) -> None:
    """Say what differs between what a page shows now and what it showed: numbers, tables, figures, words, and why.

    What is stale is run, and no output is written. All of it is shown in `PAGE.compared.html`. Two files of any output
    are compared by their words: `worn compare old.docx --with new.pdf`.
    """
    limit = _share(fail_over)
    if outputs:
        from wornpage.cli.compare_outputs import compare_outputs

        compare_outputs(page, given, as_json)
        return
    before, after = _versions(page, with_, editions, given)
    if write is not None:
        from wornpage.cli.writing import save
        from wornpage.compare.versions import as_file

        save(write, as_file(after), [page])
    comparison = _compared(before, after)
    if as_json:
        typer.echo(json.dumps(_data(comparison), ensure_ascii=False, indent=2))
    else:
        target = report or page.with_name(f"{page.stem}.compared.html")
        _report(target, comparison, before, after, page)
        _print(comparison)
        typer.echo(str(target))
    _fail(comparison, limit)


def _versions(
    page: Path, with_: str, editions: tuple[str, str] | None, given: list[str] | None
) -> tuple[Version, Version]:
    """What is compared with what. Raises `UsageError`, `PageError`."""
    from wornpage.cli.progress import TerminalReporter
    from wornpage.compare.reading import is_output, read_both
    from wornpage.compare.versions import Version, commit_of, from_file, last_of, now_of

    reporter = TerminalReporter()
    if is_output(page):
        if not Path(with_).is_file():
            raise UsageError(
                f"{page} is no page, but an output; say with which file it is to be compared: --with FILE."
            )
        one, other = (Version(showing, _nothing) for showing in read_both(page, Path(with_)))
        return one, other
    if editions is not None:
        if with_:
            raise UsageError("--editions and --with cannot be asked for together.")
        first, second = (now_of(page, reporter, given_for(page, given, name), name) for name in editions)
        return first, second
    values = given_for(page, given, "")
    now = now_of(page, reporter, values)
    if not with_:
        return last_of(page, now.showing), now
    if with_.isdigit() and len(with_) < 3:
        return last_of(page, now.showing, back=int(with_)), now
    if Path(with_).is_file():
        return from_file(Path(with_)), now
    found = commit_of(page, with_, reporter, values, now.written)
    if found is None:
        raise UsageError(
            f"there is no record {with_!r}. It is a number of pressings back, a commit of the page's repository, or a file that `worn compare --write` has made."
        )
    return found, now


def _nothing(address: str) -> None:
    return None


def _compared(before: Version, after: Version) -> Comparison:
    from wornpage.compare.comparing import compared
    from wornpage.compare.data import described

    return compared(
        before.showing,
        after.showing,
        lambda path, was, now: described(path, before.bytes_of(was), after.bytes_of(now)),
    )


def _share(words: str) -> float | None:
    """`1%` or `0.01` as a share. Raises `UsageError`."""
    if not words:
        return None
    text = words.strip().replace(",", ".")
    try:
        share = float(text.removesuffix("%")) / (100 if text.endswith("%") else 1)
    except ValueError:
        raise UsageError(f"--fail-over wants a share such as `1%`, and not {words!r}.") from None
    if not 0 <= share < float("inf"):
        raise UsageError(f"--fail-over wants a share such as `1%`, and not {words!r}.")
    return share


def _fail(comparison: Comparison, limit: float | None) -> None:
    from wornpage.compare.changes import is_over

    if limit is None:
        return
    over = sum(is_over(change, limit) for change in comparison.changes)
    if over:
        say(f"{over} {'change is' if over == 1 else 'changes are'} larger than {100 * limit:.4g} % of what was there")
        raise typer.Exit(1)


def _report(target: Path, comparison: Comparison, before: Version, after: Version, page: Path) -> None:
    from wornpage.cli.writing import save
    from wornpage.compare.report import report

    data_files = [page.parent / name for name in after.showing.data]
    save(target, report(comparison, before.bytes_of, after.bytes_of), [page, *data_files])


def _data(comparison: Comparison) -> dict[str, object]:
    changes = [msgspec.to_builtins(change) for change in comparison.changes]
    return {
        "before": {"page": comparison.before.page, "when": comparison.before.when},
        "after": {"page": comparison.after.page, "when": comparison.after.when},
        "changes": changes,
        "same": comparison.same,
        "data": msgspec.to_builtins(comparison.data),
        "others": msgspec.to_builtins(comparison.others),
        "ran": [{"label": one.label, "place": one.place, "why": one.why} for one in comparison.ran],
    }


# --- in the terminal --------------------------------------------------------------------------


def _print(comparison: Comparison) -> None:
    from rich import box
    from rich.markup import escape
    from rich.table import Table

    from wornpage.cli.console import console
    from wornpage.compare.changes import NumberChange
    from wornpage.compare.saying import counts, same_in_words

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False)
    table.add_column("at", no_wrap=True)
    for head in ("before", "after", ""):
        table.add_column(head, justify="right", max_width=24)
    table.add_column("where", ratio=1)
    seen = [one for one in comparison.changes if not isinstance(one, NumberChange) or one.is_seen]
    own = comparison.after.page.partition(",")[0]
    for change in seen[:_MOST]:
        place, *told = _row(change)
        table.add_row(escape(place.removeprefix(f"{own}:")), *map(escape, told))
    if seen:
        console().print(table)
    if len(seen) > _MOST:
        typer.echo(f"… {len(seen) - _MOST:,} more, which the report shows")
    for one in comparison.data:
        typer.echo(f"▤ {one.path}: {'; '.join(one.what)}")
    for other in comparison.others:
        typer.echo(f"{other.kind} {other.name}: {other.before} → {other.after}".replace("  ", " "))
    sums = ", ".join(f"{count} {words}" for count, words in counts(comparison)) or "nothing"
    say(f"changed since {_when(comparison)}: {sums}; as before: {same_in_words(comparison)}")


def _when(comparison: Comparison) -> str:
    import datetime

    before = comparison.before
    if not before.when:
        return before.page
    return f"{before.page} of {datetime.datetime.fromtimestamp(before.when).astimezone():%Y-%m-%d %H:%M}"


def _row(change: object) -> tuple[str, str, str, str, str]:
    from wornpage.compare import changes as c
    from wornpage.compare.saying import difference, share
    from wornpage.showing.parts import Words

    match change:
        case c.NumberChange():
            gap = share(change.was, change.now) or difference(change.was, change.now)
            return change.place, change.before, change.after, gap, change.around
        case c.CellChange():
            gap = share(change.was, change.now) or difference(change.was, change.now)
            return change.place, change.before, change.after, gap, f"{change.name}: {change.row}, {change.column}"
        case c.RowsChange():
            came = f"{len(change.came)} came ({', '.join(change.came[:4])})" if change.came else ""
            went = f"{len(change.went)} went ({', '.join(change.went[:4])})" if change.went else ""
            return change.place, "", "", "", f"{change.name}: {change.what}: {', '.join(filter(None, (came, went)))}"
        case c.FigureChange():
            return change.place, "", "", "", f"{change.name or change.label or 'a figure'} is drawn otherwise"
        case c.WordsChange():
            went = "".join(words for kind, words in change.pieces if kind == "went")
            came = "".join(words for kind, words in change.pieces if kind == "came")
            return change.place, _short(went), _short(came), "", f"{change.kind}"
        case c.PartChange(part=part, came=came):
            said = part.text if isinstance(part, Words) else f"{part.name} {part.caption}"
            return part.place, "", "", "", f"{'new' if came else 'gone'}: {_short(said)}"
    return "", "", "", "", ""


def _short(words: str) -> str:
    words = " ".join(words.split())
    return words if len(words) <= 60 else f"{words[:60]}…"
