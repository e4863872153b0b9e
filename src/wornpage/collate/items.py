"""An edited paragraph as what it keeps of the source, and what is new in it."""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence

from msgspec import Struct, field

from wornpage.collate.letters import BREAK, FORMULA, NOTE, PICTURE, By, Letter
from wornpage.collate.mapping import Mapped
from wornpage.collate.wording import same_letters

LOOKS = {"em", "strong", "strike", "code"}
"""What pages have; links besides."""


def is_look(what: str) -> bool:
    """Whether a change is one of looks."""
    return what in LOOKS or what == "link"


class Item(Struct):
    """A letter, or an object of the source."""

    text: str
    looks: frozenset[str]
    unit: int = -1
    """Which of the units it is kept from; -1 for what is new."""
    atom: int = -1
    styles: tuple[int, ...] = ()
    """Set by `spelling`."""


class Change(Struct):
    """A stretch that is not as it was."""

    old: str
    new: str
    unit: int
    atom: int
    """Where it stands: just before this atom, or after the last."""
    by: By | None = None
    what: str = "words"


class Touched(Struct):
    """An object that somebody has written into."""

    unit: int
    atom: int
    old: str
    new: str
    by: By | None = None


class Kept(Struct):
    """All paragraphs of a group, as they came back."""

    rows: list[list[Item]] = field(default_factory=list)
    changes: list[Change] = field(default_factory=list)
    touched: list[Touched] = field(default_factory=list)
    gone: list[tuple[int, int]] = field(default_factory=list)
    """Objects that are no longer there, by unit and atom."""
    places: dict[str, tuple[int, int]] = field(default_factory=dict)
    """By the number of a comment: the unit and the atom that it begins at."""
    foreign: list[Change] = field(default_factory=list)
    """What pages have no words for: new pictures, formulas, notes, looks."""


class _Base(Struct):
    letter: Letter
    unit: int
    atom: int


def compare(olds: Sequence[Mapped], news: Sequence[list[Letter]]) -> Kept:
    """What some paragraphs that came back keep of those that went out."""
    base = _joined_base(olds)
    new = _joined_new(news)
    said = "".join(one.letter.text for one in base)
    pairs = {to: at for at, to in same_letters(said, "".join(one.text for one in new))}
    kept = Kept()
    fixed = _objects(olds, base, new, pairs, kept)
    _rows(olds, base, new, pairs, fixed, kept)
    _changes(base, new, pairs, fixed, kept)
    for to, letter in enumerate(new):
        where = fixed.get(to) or ((base[pairs[to]].unit, base[pairs[to]].atom) if to in pairs else None)
        if where is not None and where[0] >= 0:
            for number in letter.comments:
                kept.places.setdefault(number, where)
    return kept


def _joined_base(olds: Sequence[Mapped]) -> list[_Base]:
    made: list[_Base] = []
    for number, old in enumerate(olds):
        if number:
            made.append(_Base(Letter(BREAK), -1, -1))
        made += [_Base(letter, number, atom) for letter, atom in zip(old.letters, old.atoms, strict=True)]
    return made


def _joined_new(news: Sequence[list[Letter]]) -> list[Letter]:
    made: list[Letter] = []
    for number, letters in enumerate(news):
        if number:
            made.append(Letter(BREAK))
        made += letters
    return made


# --- objects: whole, or told ------------------------------------------------------------------


def _objects(
    olds: Sequence[Mapped], base: list[_Base], new: list[Letter], pairs: dict[int, int], kept: Kept
) -> dict[int, tuple[int, int]]:
    """For each letter that came back and belongs to an object: which; such letters are taken out of `pairs`."""
    places: dict[tuple[int, int], list[int]] = {}
    for at, one in enumerate(base):
        if one.unit >= 0 and olds[one.unit].unit.atoms[one.atom].key:
            places.setdefault((one.unit, one.atom), []).append(at)
    fixed: dict[int, tuple[int, int]] = {}
    for which, own in places.items():
        back = {pairs[to]: to for to in pairs if own[0] <= pairs[to] <= own[-1]}
        found, is_whole = _found(olds, which, own, back, base, new, pairs)
        for at in own:
            if at in back:
                pairs.pop(back[at], None)
        if not found:
            kept.gone.append(which)
            continue
        if not is_whole:
            found = _with_what_touches(found, new, pairs)
            said = "".join(new[to].what or new[to].text for to in found)
            shown = "".join(base[at].letter.what or base[at].letter.text for at in own)
            by = next((new[to].by for to in found if new[to].by), None)
            kept.touched.append(Touched(*which, shown, said, by))
        for to in found:
            pairs.pop(to, None)
            fixed[to] = which
    return fixed


def _found(
    olds: Sequence[Mapped], which: tuple[int, int], own: list[int], back: dict[int, int], base: list[_Base],
    new: list[Letter], pairs: dict[int, int],
) -> tuple[list[int], bool]:  # fmt: skip
    """The letters that an object has become, and whether they are as they were."""
    hit = [back[at] for at in own if at in back]
    if len(hit) == len(own) and _is_row(hit):
        return hit, _same_things(own, hit, base, new)
    key = olds[which[0]].unit.atoms[which[1]].key
    named = [to for to, letter in enumerate(new) if letter.key == key]
    if named and _is_row(named):
        said = "".join(new[to].text for to in named)
        return named, said == olds[which[0]].shown[which[1]]
    if hit:
        low, high = min(hit), max(hit) + 1
        return list(range(low, high)), False
    before, after = _around(own, pairs)
    is_beside = before >= 0 and after >= 0 and pairs[before] >= own[0] - 2 and pairs[after] <= own[-1] + 2
    if is_beside and 0 <= after - before - 1 <= 3 * len(own) + 8 and after - before > 1 and not named:
        between = list(range(before + 1, after))
        if all(new[to].text not in {BREAK} for to in between) and _stands_for(between, new):
            return between, False
    return [], True


def _stands_for(between: list[int], new: list[Letter]) -> bool:
    """Whether letters in an object's place are one thing, as it was, and not a rewritten sentence."""
    said = "".join(new[to].text for to in between).strip()
    return bool(said) and said.count(" ") <= 2


def _same_things(own: list[int], hit: list[int], base: list[_Base], new: list[Letter]) -> bool:
    pairs = [(base[at].letter, new[to]) for at, to in zip(own, hit, strict=True)]
    return all(one.text == NOTE or _signs(one.what) == _signs(other.what) for one, other in pairs)


def _signs(formula: str) -> str:
    """The letters and figures of a formula: programs put spaces and brackets in as they like."""
    return "".join(letter for letter in unicodedata.normalize("NFKC", formula) if letter.isalnum())


def _is_row(places: list[int]) -> bool:
    return places == list(range(places[0], places[0] + len(places)))


def _around(own: list[int], pairs: dict[int, int]) -> tuple[int, int]:
    """The letters that came back nearest before and after a stretch of what went out."""
    before = max((to for to, at in pairs.items() if at < own[0]), default=-1)
    after = min((to for to, at in pairs.items() if at > own[-1]), default=-1)
    return before, after


_ENDS = ".,;:!?()[]"


def _with_what_touches(found: list[int], new: list[Letter], pairs: dict[int, int]) -> list[int]:
    """Letters typed against an object without a blank belong to what was done to it."""
    low, high = min(found), max(found) + 1
    while (
        high < len(new) and high not in pairs and not new[high].text.isspace() and new[high].text not in _ENDS + BREAK
    ):
        high += 1
    while low and low - 1 not in pairs and not new[low - 1].text.isspace() and new[low - 1].text not in _ENDS + BREAK:
        low -= 1
    return list(range(low, high))


# --- rows -------------------------------------------------------------------------------------


def _rows(
    olds: Sequence[Mapped],
    base: list[_Base],
    new: list[Letter],
    pairs: dict[int, int],
    fixed: dict[int, tuple[int, int]],
    kept: Kept,
) -> None:
    """Each paragraph as items; what shows nothing stays behind what stands before it."""
    rows: list[list[Item]] = [[]]
    done: set[tuple[int, int]] = set()
    looks = _object_looks(olds, base, new, fixed, kept)
    for to, letter in enumerate(new):
        if letter.text == BREAK and to not in fixed:
            rows.append([])
        elif to in fixed:
            if fixed[to] not in done:
                done.add(fixed[to])
                _add(rows[-1], olds, *fixed[to], looks[fixed[to]])
        elif to in pairs and base[pairs[to]].unit >= 0:
            one = base[pairs[to]]
            _add(rows[-1], olds, one.unit, one.atom, _looks(letter, one.letter, olds[one.unit], one.atom))
        elif letter.text in {NOTE, FORMULA, PICTURE}:
            named = {NOTE: "a note", FORMULA: "a formula", PICTURE: "a picture"}[letter.text]
            kept.foreign.append(Change("", letter.what or named, 0, 0, letter.by, f"{named} that is new"))
        else:
            rows[-1].append(Item(letter.text, known_looks(letter)))
    kept.rows = rows


def _object_looks(
    olds: Sequence[Mapped], base: list[_Base], new: list[Letter], fixed: dict[int, tuple[int, int]], kept: Kept
) -> dict[tuple[int, int], frozenset[str]]:
    """How each object is to look: as in the source, but for what has been done to all of it; what was done to a part is told."""
    before: dict[tuple[int, int], list[frozenset[str]]] = {}
    for one in base:
        before.setdefault((one.unit, one.atom), []).append(known_looks(one.letter))
    after: dict[tuple[int, int], list[int]] = {}
    for to, which in fixed.items():
        after.setdefault(which, []).append(to)
    made: dict[tuple[int, int], frozenset[str]] = {}
    for which, places in after.items():
        mapped = olds[which[0]]
        own = mapped.unit.looks(mapped.unit.atoms[which[1]])
        was, now = before[which], [known_looks(new[to]) for to in sorted(places)]
        made[which] = own
        if len(was) != len(now):
            continue
        added = [two - one for one, two in zip(was, now, strict=True)]
        gone = [one - two for one, two in zip(was, now, strict=True)]
        links = {look for looks in (*added, *gone) for look in looks if look.startswith("link:")}
        whole, lost = frozenset.intersection(*added) - links, frozenset.intersection(*gone) - links
        made[which] = (own | whole) - lost
        by = next((new[to].by for to in places if new[to].by), None)
        for look in sorted((whole | lost) & (made[which] ^ own)):
            words = f"{mapped.shown[which[1]]} ({'no longer ' if look in lost else ''}{look})"
            kept.changes.append(Change(mapped.shown[which[1]], words, *which, by, look))
        for look in sorted(set[str]().union(*added, *gone) - whole - lost - links):
            kept.foreign.append(Change(mapped.shown[which[1]], look, *which, by, f"{look} in a part of a mark"))
    return made


def _add(row: list[Item], olds: Sequence[Mapped], unit: int, atom: int, looks: frozenset[str]) -> None:
    """An atom that is kept, and what follows it without being seen."""
    atoms = olds[unit].unit.atoms
    text = olds[unit].shown.get(atom, atoms[atom].text)
    hidden = atom
    if not row:
        first = atom
        while first and _is_unseen(olds[unit], first - 1):
            first -= 1
        row += [Item("", looks, unit, at) for at in range(first, atom) if first == 0]
    row.append(Item(text, looks, unit, atom))
    while hidden + 1 < len(atoms) and _is_unseen(olds[unit], hidden + 1):
        hidden += 1
        row.append(Item("", looks, unit, hidden))


def _is_unseen(old: Mapped, atom: int) -> bool:
    return atom not in old.seen


def known_looks(letter: Letter) -> frozenset[str]:
    """Of a letter's looks those that pages have."""
    return frozenset(look for look in letter.looks if look in LOOKS or look.startswith("link:"))


def _looks(new: Letter, old: Letter, mapped: Mapped, atom: int) -> frozenset[str]:
    """The looks of a kept letter: as the source has them, but for what was added and taken away."""
    before, after = known_looks(old), known_looks(new)
    own = mapped.unit.looks(mapped.unit.atoms[atom])
    if _plain(before) == _plain(after):
        return own
    added = {look for look in after if look.rstrip("/") not in _plain(before)}
    gone = {look for look in before if look.rstrip("/") not in _plain(after)}
    if any(look.startswith("link:") for look in gone):
        gone |= {look for look in own if look.startswith("link:")}
    return frozenset((own - gone) | added)


def _plain(looks: frozenset[str]) -> set[str]:
    """Looks, addresses without the stroke that some programs put at their end."""
    return {look.rstrip("/") for look in looks}


# --- what has changed -------------------------------------------------------------------------


def _changes(
    base: list[_Base], new: list[Letter], pairs: dict[int, int], fixed: dict[int, tuple[int, int]], kept: Kept
) -> None:
    """Stretches of words that are not as they were, and of looks."""
    points = sorted((at, to) for to, at in pairs.items())
    objects = set(fixed.values())
    at, to = 0, 0
    for old_at, new_to in [*points, (len(base), len(new))]:
        gone = [one for one in base[at:old_at] if (one.unit, one.atom) not in objects]
        added = [letter for place, letter in enumerate(new[to:new_to], to) if place not in fixed]
        if gone or added:
            _note_words(base, new, (at, old_at, to, new_to), gone, added, kept)
        at, to = old_at + 1, new_to + 1
    _look_changes(base, new, points, kept)


def _note_words(
    base: list[_Base],
    new: list[Letter],
    at: tuple[int, int, int, int],
    gone: list[_Base],
    added: list[Letter],
    kept: Kept,
) -> None:
    """One stretch, told in whole words; where only a paragraph was parted from another, nothing is."""
    old, said = "".join(one.letter.text for one in gone), "".join(letter.text for letter in added)
    if BREAK in old + said and not (old + said).replace(BREAK, "").strip():
        return
    first, last, begin, end = at
    lead = tail = 0
    while _is_in_word(base, new, first - lead - 1, begin - lead - 1) and _is_word(old[:1] or said[:1]):
        lead += 1
    while _is_in_word(base, new, last + tail, end + tail) and _is_word(old[-1:] or said[-1:]):
        tail += 1
    before = "".join(one.letter.text for one in base[first - lead : first])
    behind = "".join(one.letter.text for one in base[last : last + tail])
    near = base[first] if first < len(base) and base[first].unit >= 0 else base[first - 1] if first else None
    unit, atom = (near.unit, near.atom) if near is not None and near.unit >= 0 else (0, 0)
    by = next((letter.by for letter in added if letter.by), (new[end].cut or new[end].by) if end < len(new) else None)
    was, now = (before + one.replace(BREAK, "\n") + behind for one in (old, said))
    kept.changes.append(Change(was, now, unit, atom, by))


def _is_word(text: str) -> bool:
    return text.isalnum()


def _is_in_word(base: list[_Base], new: list[Letter], at: int, to: int) -> bool:
    """Whether the same letter of a word stands in both."""
    if not (0 <= at < len(base) and 0 <= to < len(new)):
        return False
    return base[at].letter.text == new[to].text and _is_word(new[to].text)


def _look_changes(base: list[_Base], new: list[Letter], points: list[tuple[int, int]], kept: Kept) -> None:
    """Stretches of letters that look otherwise than they did."""
    run: tuple[frozenset[str], list[tuple[int, int]]] | None = None
    for at, to in [*points, (-1, -1)]:
        changed: frozenset[str] = frozenset()
        if at >= 0 and base[at].unit >= 0:
            before, after = base[at].letter.looks, new[to].looks
            changed = frozenset({one.rstrip("/") for one in before} ^ {one.rstrip("/") for one in after})
        if run is not None and (changed != run[0] or at < 0):
            _note_looks(run, base, new, kept)
            run = None
        if changed:
            run = (changed, [*(run[1] if run else []), (at, to)])


def _note_looks(
    run: tuple[frozenset[str], list[tuple[int, int]]], base: list[_Base], new: list[Letter], kept: Kept
) -> None:
    changed, points = run
    (at, to), text = points[0], "".join(base[at].letter.text for at, _ in points)
    if not text.strip():
        return
    for look in sorted(changed):
        is_known = look in LOOKS or look.startswith("link:")
        was = any(one.rstrip("/") == look for one in base[at].letter.looks)
        what = "link" if look.startswith("link:") else look
        words = f"{text} ({'no longer ' if was else ''}{look.removeprefix('link:')})"
        change = Change(text, words, base[at].unit, base[at].atom, new[to].by, what)
        (kept.changes if is_known else kept.foreign).append(change)
