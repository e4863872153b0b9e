"""Items as Markdown: what is kept is written as it was, byte for byte; what is new so that it reads as it should."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping, Sequence

from msgspec import Struct

from wornpage.collate.items import Item
from wornpage.collate.nesting import Stack, Stretch, common, nested, runs
from wornpage.source.units import Style, Unit

_LIKELY_ONES, _STARTS_TOO = 1, 3
"""Which new letters are escaped, from 0: none; what is likely to mean something; all that may; line starts too."""
_OWN: dict[str, str] = {}
_STARS, _STROKES = {"em": "*", "strong": "**"}, {"em": "_", "strong": "**"}
"""Signs for styles that have changed: the source's own, or others where those would run into their neighbours."""


class _Way(Struct, frozen=True):
    """One of the ways to write something."""

    escapes: int
    parts: bool = False
    """Whether new styles end and begin anew where those around them do."""
    signs: dict[str, str] = _OWN


_WAYS = (
    *(_Way(escapes) for escapes in range(4)),
    *(_Way(escapes, True) for escapes in range(2)),
    *(_Way(escapes, parts, signs) for signs in (_STARS, _STROKES) for parts in (False, True) for escapes in range(2)),
)
LEVELS = range(len(_WAYS))
"""The ways to write something, plainest first."""
_LIKELY = re.compile(r"[\\`*\[\]<$|]|_(?!\w)|(?<!\w)_|~~|\{(?=[=a-z#.])|&(?=#?\w+;)")
_ALL = re.compile(r"[\\`*_\[\]<>$~|{}]|&(?=#?\w+;)")
_LINE_STARTS = (
    (re.compile(r"^(\s*)([-+*]|#{1,6}|>)(?=\s|$)", re.MULTILINE), r"\1\\\2"),
    (re.compile(r"^(\s*\d{1,9})([.)])(?=\s|$)", re.MULTILINE), r"\1\\\2"),
    (re.compile(r"^(\s*)(=+|-+|:::|~~~|```)", re.MULTILINE), r"\1\\\2"),
    (re.compile(r"^(\s*)(Caption|Label)(?=[ :(])", re.MULTILINE), r"\1\\\2"),
)
_SIGNS = {"em": ("*", "*"), "strong": ("**", "**"), "strike": ("~~", "~~"), "code": ("`", "`")}


def written(units: Sequence[Unit], text: str, items: list[Item], level: int, in_cell: bool = False) -> str:
    """The running text that `items` make; `text` is the source of `units`."""
    way = _WAYS[level]
    known = _stretches(units, items, way.parts)
    stacks = nested(items, known)
    signs = _signs(items, known, stacks, way.signs)
    out: list[str] = []
    pending: list[str] = []
    stack: Stack = ()

    def flush() -> None:
        if pending:
            is_code = any(known[one].is_code for one in stack)
            out.append(_escaped("".join(pending), way.escapes, is_code, in_cell))
            pending.clear()

    for item, here in zip(items, stacks, strict=True):
        if here != stack:
            flush()
            shared = common(stack, here)
            out += [signs[one][1] for one in reversed(stack[shared:])]
            out += [signs[one][0] for one in here[shared:]]
            stack = here
        if item.unit >= 0:
            flush()
            atom = units[item.unit].atoms[item.atom]
            out.append(text[atom.start : atom.end])
        else:
            pending.append(item.text)
    flush()
    out += [signs[one][1] for one in reversed(stack)]
    made = "".join(out)
    if way.escapes == _STARTS_TOO and not in_cell:
        for pattern, safe in _LINE_STARTS:
            made = pattern.sub(safe, made)
    return made


def _signs(
    items: Sequence[Item], known: Mapping[int, Stretch], stacks: Sequence[Stack], others: Mapping[str, str]
) -> dict[int, tuple[str, str]]:
    """What opens and closes each style: as the source has it; for those that have changed, other signs if there are."""
    pieces = Counter(one for one, _ in runs(stacks))
    sizes = Counter(one for item in items if item.unit >= 0 for one in item.styles)
    made: dict[int, tuple[str, str]] = {}
    for number, one in known.items():
        is_whole = pieces[number] == 1 and sizes[number] == one.size
        sign = others.get(one.style.look) if not is_whole else None
        made[number] = (sign, sign) if sign else (one.style.open, one.style.close)
    return made


def _escaped(text: str, level: int, is_code: bool, in_cell: bool) -> str:
    """New letters, so that they are read as what they are."""
    if is_code:
        return text.replace("\n", " ")
    if level:
        text = (_LIKELY if level == _LIKELY_ONES else _ALL).sub(lambda found: "\\" + found[0], text)
    elif in_cell:
        text = text.replace("|", "\\|")
    return text.replace("\n", " " if in_cell else "\\\n")


def _stretches(units: Sequence[Unit], items: list[Item], parts: bool) -> dict[int, Stretch]:
    """Which styles stand around each item (`Item.styles`): the source's own where they still fit, new ones else."""
    known: dict[int, Stretch] = {}
    numbers: dict[tuple[int, int], int] = {}
    sizes = [Counter(one for atom in unit.atoms for one in atom.styles) for unit in units]
    missing: list[set[str]] = []
    for item in items:
        styles: list[int] = []
        have: set[str] = set()
        if item.unit >= 0:
            unit = units[item.unit]
            for one in unit.atoms[item.atom].styles:
                look = unit.styles[one].look
                if look in item.looks:
                    number = numbers.setdefault((item.unit, one), len(numbers) + 1)
                    known[number] = Stretch(unit.styles[one], sizes[item.unit][one])
                    styles.append(number)
                    have.add(look)
        item.styles = tuple(styles)
        missing.append(set(item.looks) - have)
    _spread(items, missing, known)
    _begin_new(items, missing, known, parts)
    return known


def _spread(items: list[Item], missing: list[set[str]], known: dict[int, Stretch]) -> None:
    """New letters in a look that their neighbour has stand within the neighbour's style."""
    for order in (range(len(items)), range(len(items) - 1, -1, -1)):
        before: tuple[int, ...] | None = None
        for at in order:
            for one in before or ():
                look = known[one].style.look
                if look in missing[at]:
                    items[at].styles += (one,)
                    missing[at].discard(look)
            before = items[at].styles


def _begin_new(items: list[Item], missing: list[set[str]], known: dict[int, Stretch], parts: bool) -> None:
    """Looks that nothing around has begin styles of their own; `parts` lets none reach over the end of another style."""
    current: dict[str, int] = {}
    around: tuple[int, ...] = ()
    number = max(known, default=0)
    for at, item in enumerate(items):
        if parts and item.styles != around:
            current = {}
        around = item.styles
        current = {look: one for look, one in current.items() if look in missing[at]}
        for look in sorted(missing[at]):
            if look not in current:
                number += 1
                opening, closing = _SIGNS.get(look) or ("[", f"]({_address(look.removeprefix('link:'))})")
                known[number] = Stretch(Style(look, opening, closing))
                current[look] = number
            item.styles += (current[look],)


def _address(address: str) -> str:
    return f"<{address}>" if re.search(r"[\s()]", address) else address
