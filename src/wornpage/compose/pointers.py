"""Pointers find what they point to: `{see a, b}` becomes words and links."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from itertools import groupby

from msgspec import Struct
from msgspec.structs import replace

from wornpage.compose.answering import Draft
from wornpage.compose.language import Language
from wornpage.compose.numbering import Target
from wornpage.session.languages import language_of
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.span import Span

_NO_CAPTION = "The chunk of that name shows nothing with a number: give its figure or table a `Caption:` line."


class Called(Struct, frozen=True, array_like=True):
    """What a place is called that lies in another page."""

    word: str
    """`Figure`, in the language of the whole."""
    number: str
    title: str

    def said(self, form: str) -> str:
        """As a pointer says it; `form` is the pointer's."""
        if not self.number or (form == "title" and self.title):
            return self.title
        return self.number if form in ("number", "title") else f"{self.word}\u00a0{self.number}".strip()


def point(
    mark: n.PointerMark,
    targets: Mapping[str, Target],
    draft: Draft,
    abroad: Callable[[str], Called | None] = lambda label: None,
) -> tuple[n.Inlines, list[Problem]]:
    """The words for a pointer on a page, and a problem for each label that nothing has; `abroad` has names for places that are not
    in this work."""
    led: list[n.Inlines] = []
    problems = []
    found = []
    page, language = draft.page, draft.language
    for label in mark.labels:
        known = find_label(label, mark.apart, targets)
        if known:
            target = targets[known]
            if doubt := in_doubt(known, target, mark.span, draft.key):
                problems.append(doubt)
            found.append(replace(target, page="") if target.page == draft.key else target)
        elif (there := abroad(label)) is not None:
            led.append((n.Text(mark.span, there.said(mark.form)),))
        else:
            is_chunk = any(chunk.label == label for chunk in page.chunks)
            hint = _hidden(label, draft) or (_NO_CAPTION if is_chunk else near_miss(label, targets))
            problems.append(Problem(mark.span, f"nothing is labelled {label!r}.", hint))
    problems += [_no_number(mark, target) for target in found if not target.number and not target.words]
    found = [target for target in found if target.number or target.words]
    if mark.form == "title":
        parts = [_link(mark, target, target.words or (n.Text(mark.span, target.number),)) for target in found]
        return _listed(mark, [*((part,) for part in parts), *led], language), problems
    groups = []
    for kind, members in groupby(found, key=lambda target: target.kind):
        groups.append(_group(mark, kind, list(members), language))
    return _listed(mark, [*groups, *led], language), problems


def _hidden(label: str, draft: Draft) -> str:
    """What to do where a chunk makes a thing with this label, and does not show it; empty where none does."""
    for chunk in draft.page.chunks:
        language, show = language_of(chunk.language), draft.settings.of(chunk).options.show
        if show in {"source", "nothing"} and language is not None and label in language.code.labels(chunk.code)[0]:
            return f"The chunk `{chunk.label}` makes it, and readers do not see it: `show={show}` shows no output."
    return ""


def in_doubt(label: str, target: Target, span: Span, here: str) -> Problem | None:
    """What is wrong where several pages have a label and this one has not."""
    if not target.rivals or target.page == here:
        return None
    what = f"several pages have the label {label!r}: {', '.join(target.rivals[:4])}."
    return Problem(span, what, f"Put the name of the page before it, as in `{{see page/{label}}}`.")


def _no_number(mark: n.PointerMark, target: Target) -> Problem:
    what = f"there is nothing to say of the {target.kind} {target.anchor!r}: it has no caption, so it has no number."
    return Problem(mark.span, what, "Give it a `Caption:` line.")


def find_label(label: str, apart: str, targets: Mapping[str, Target]) -> str:
    """The label as the page has it: that of the same repetition, of one around it, or of the page; empty for none."""
    stem, _, part = label.rpartition(".")
    while apart:
        for wanted in (f"{label}.{apart}", f"{stem}.{apart}.{part}"):
            if wanted in targets:
                return wanted
        apart = apart.rpartition(".")[0]
    return label if label in targets else ""


def _group(mark: n.PointerMark, kind: str, targets: list[Target], language: Language) -> n.Inlines:
    """One kind's targets: `Figures 3 and 4`; a heading without a number goes by its words."""
    if all(target.place for target in targets):
        targets = sorted(dict.fromkeys(targets), key=lambda target: target.place)
    words = getattr(language, kind)[1 if len(targets) > 1 else 0]
    if len(targets) == 1 and targets[0].number and mark.form != "number":
        return (_link(mark, targets[0], (n.Text(mark.span, f"{words}\u00a0{targets[0].number}"),)),)
    links: list[n.Inlines] = []
    for run in _runs(targets):
        ends = [run[0], run[-1]] if len(run) > 2 else run
        shown = [_link(mark, target, _said(mark, target)) for target in ends]
        if len(run) > 2:
            links.append((shown[0], n.Text(mark.span, "\u2013"), shown[1]))
        else:
            links += [(link,) for link in shown]
    listed = _listed(mark, links, language)
    if mark.form == "number" or not all(target.number for target in targets):
        return listed
    return (n.Text(mark.span, f"{words}\u00a0"), *listed)


def _said(mark: n.PointerMark, target: Target) -> n.Inlines:
    return (n.Text(mark.span, target.number),) if target.number else target.words


def _runs(targets: list[Target]) -> list[list[Target]]:
    """Targets in order, neighbours by number together: 2, 3, 4 and 7 are two runs."""
    runs: list[list[Target]] = []
    for target in targets:
        if runs and _follows(runs[-1][-1].place, target.place):
            runs[-1].append(target)
        else:
            runs.append([target])
    return runs


def _follows(before: tuple[int, ...], after: tuple[int, ...]) -> bool:
    return len(before) == len(after) > 0 and before[:-1] == after[:-1] and before[-1] + 1 == after[-1]


def _link(mark: n.PointerMark, target: Target, words: n.Inlines) -> n.Inline:
    return n.Link(mark.span, "", "", words, target.anchor, target.page)


def _listed(mark: n.PointerMark, parts: list[n.Inlines], language: Language) -> n.Inlines:
    """`a`, `a and b`, `a, b and c`."""
    joined: list[n.Inline] = []
    for position, part in enumerate(parts):
        if position:
            last = position == len(parts) - 1
            joined.append(n.Text(mark.span, f" {language.conjunction} " if last else ", "))
        joined += part
    return tuple(joined)
