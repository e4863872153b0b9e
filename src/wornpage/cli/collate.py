"""`worn collate`: what people have changed in documents, brought back into the page."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from wornpage.cli.say import say
from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from wornpage.collate.collating import Collated, Prefer
    from wornpage.collate.rebasing import Conflict
    from wornpage.collate.report import Edit


def collate(
    page: Annotated[Path, typer.Argument(help="The page.", metavar="PAGE")],
    documents: Annotated[list[Path], typer.Argument(help="Documents that came back.", metavar="DOCUMENT…")],
    only: Annotated[str, typer.Option("--only", help="The tracked changes of this author alone.", metavar="NAME")] = "",
    prefer: Annotated[
        str,
        typer.Option(
            "--prefer", help="Who has it where both changed the same words: `source` or `reviewer`.", metavar="WHO"
        ),
    ] = "",
    write: Annotated[
        bool | None,
        typer.Option("--write/--dry-run", help="Write the page; without it only if it is under version control."),
    ] = None,
    ask: Annotated[bool, typer.Option("--ask", help="Ask in each conflict who is to have it.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="Say what happened as JSON.")] = False,
) -> None:
    """Bring what reviewers changed and remarked in documents back into the page they were made from."""
    from wornpage.collate.collating import Asked
    from wornpage.collate.collating import collate as collated
    from wornpage.collate.keeping import keep, may_write

    if prefer not in {"", "source", "reviewer"}:
        raise UsageError(f"--prefer takes `source` or `reviewer`, and not {prefer!r}.")
    asked = Asked(page, tuple(documents), only, prefer)  # type: ignore[arg-type]
    made = collated(asked, _choice if ask and not prefer else None)
    writes = may_write(page) if write is None else write
    kept = keep(page, made) if writes else None
    if as_json:
        _say_json(page, made, writes)
    else:
        _say(page, made)
        if kept is not None:
            say(f"written: {', '.join(str(path) for path in kept.written) or 'nothing'}")
            if kept.before is not None:
                say(f"the page as it was: {kept.before}")
        elif made.text != made.before or made.remarks:
            say("nothing was written: `--write` writes it.")
    if made.count("conflict") and writes:
        raise typer.Exit(1)


def _choice(conflict: Conflict) -> Prefer:
    """Who has it in a conflict, as the author says."""
    say(f"the page: {conflict.ours.strip() or '(nothing)'}")
    say(f"reviewer: {conflict.theirs.strip() or '(nothing)'}")
    answers: dict[str, Prefer] = {"p": "source", "r": "reviewer", "l": ""}
    while True:
        said = typer.prompt(
            "keep the page's [p], take the reviewer's [r], leave both for later [l]", err=True, default="l"
        )
        if said.strip().lower()[:1] in answers:
            return answers[said.strip().lower()[:1]]


def _say(page: Path, made: Collated) -> None:
    """Every edit in a line, then the sums."""
    for notice in made.notices:
        say(notice)
    for edit in sorted(made.edits, key=lambda one: (one.line, one.column)):
        say(f"{page}:{edit.line}:{edit.column}: {edit.outcome}: {_told(edit)}")
    for remark in made.remarks:
        state = ", done" if remark.done else ""
        say(f"{page}:{remark.line}:{remark.column}: comment ({remark.author}{state}): {_short(remark.text, 200)}")
    counts = ", ".join(f"{made.count(one)} {word}" for one, word in _WORDS if made.count(one))
    edits, remarks = len(made.edits), len(made.remarks)
    say(f"{edits} edit{'s' * (edits != 1)}{': ' + counts if counts else ''}; {remarks} comment{'s' * (remarks != 1)}")
    for doubt in made.doubts:
        say(f"not accounted for, so look at it yourself: “{doubt}”")
    if made.edits and not made.doubts:
        say("checked: the merged page says what the documents say, but for what is reported above.")


_WORDS = (("merged", "merged"), ("reported", "reported"), ("conflict", "in conflict"))


def _told(edit: Edit) -> str:
    """One edit in words."""
    who = edit.by.author if edit.by is not None else ""
    if edit.what == "mark":
        return f"{who or 'the reviewer'} wrote “{_short(edit.new)}” where {edit.why} gave “{_short(edit.old)}”"
    if edit.what in _LOOKS:
        gone = "no longer " if f"(no longer {edit.what})" in edit.new else ""
        return f"{gone}{_LOOKS[edit.what]}: “{_short(edit.old)}”{_behind(edit)}"
    both = (
        f"“{_short(edit.old)}” → “{_short(edit.new)}”" if edit.old and edit.new else f"“{_short(edit.new or edit.old)}”"
    )
    sign = "" if edit.old and edit.new else "+ " if edit.new else "− "
    return f"{edit.what}: {sign}{both}{_behind(edit)}"


def _behind(edit: Edit) -> str:
    """Who made an edit, and why it was not merged."""
    who = f" ({edit.by.author})" if edit.by is not None and edit.by.author else ""
    return f"{who}{f': {edit.why}' if edit.why else ''}"


_LOOKS = {"em": "slanted", "strong": "bold", "strike": "struck through", "code": "code"}


def _short(text: str, most: int = 60) -> str:
    from wornpage.collate.blocks import short

    return short(text, most)


def _say_json(page: Path, made: Collated, writes: bool) -> None:
    import msgspec

    told = {
        "page": str(page), "written": writes, "edits": made.edits, "comments": made.remarks, "notices": made.notices,
        "not accounted for": made.doubts,
        "counts": {one: made.count(one) for one, _ in _WORDS},
    }  # fmt: skip
    typer.echo(msgspec.json.format(msgspec.json.encode(told), indent=2).decode())
