"""Items as Markdown: what is kept is written as it was, byte for byte; what is new so that it reads as it should."""

from __future__ import annotations

import re
from collections.abc import Sequence

from msgspec import Struct

from wornpage.collate.items import Item
from wornpage.source.units import Style, Unit

LEVELS = (0, 1, 2, 3, 4, 5)
"""Nothing escaped; what is likely to mean something; all that may; line starts too; and the first two with new styles that
end and begin anew where those around them do."""
_DEEPEST, _PARTED = 3, 4
_LIKELY = re.compile(r"[\\`*\[\]<$|]|_(?!\w)|(?<!\w)_|~~|\{(?=[=a-z#.])|&(?=#?\w+;)")
_ALL = re.compile(r"[\\`*_\[\]<>$~|{}]|&(?=#?\w+;)")
_LINE_STARTS = (
    (re.compile(r"^(\s*)([-+*]|#{1,6}|>)(?=\s|$)", re.MULTILINE), r"\1\\\2"),
    (re.compile(r"^(\s*\d{1,9})([.)])(?=\s|$)", re.MULTILINE), r"\1\\\2"),
    (re.compile(r"^(\s*)(=+|-+|:::|~~~|```)", re.MULTILINE), r"\1\\\2"),
    (re.compile(r"^(\s*)(Caption|Label)(?=[ :(])", re.MULTILINE), r"\1\\\2"),
)
_SIGNS = {"em": ("*", "*"), "strong": ("**", "**"), "strike": ("~~", "~~"), "code": ("`", "`")}


class _Stretch(Struct):
    """A style around some items."""

    style: Style
    is_new: bool


def written(units: Sequence[Unit], text: str, items: list[Item], level: int, in_cell: bool = False) -> str:
    """The running text that `items` make; `text` is the source of `units`."""
    stretches = _stretches(units, items, level >= _PARTED)
    level -= _PARTED * (level >= _PARTED)
    out: list[str] = []
    stack: list[int] = []
    pending: list[str] = []

    def flush() -> None:
        if pending:
            is_code = any(stretches[one].style.look == "code" for one in stack)
            out.append(_escaped("".join(pending), level, is_code, in_cell))
            pending.clear()

    for item in items:
        shared = 0
        while shared < min(len(stack), len(item.styles)) and stack[shared] == item.styles[shared]:
            shared += 1
        if shared < len(stack) or shared < len(item.styles):
            flush()
        while len(stack) > shared:
            out.append(stretches[stack.pop()].style.close)
        for one in item.styles[shared:]:
            stack.append(one)
            out.append(stretches[one].style.open)
        if item.unit >= 0:
            flush()
            atom = units[item.unit].atoms[item.atom]
            out.append(text[atom.start : atom.end])
        else:
            pending.append(item.text)
    flush()
    while stack:
        out.append(stretches[stack.pop()].style.close)
    made = "".join(out)
    if level == _DEEPEST and not in_cell:
        for pattern, safe in _LINE_STARTS:
            made = pattern.sub(safe, made)
    return made


def _escaped(text: str, level: int, is_code: bool, in_cell: bool) -> str:
    """New letters, so that they are read as what they are."""
    if is_code:
        return text.replace("\n", " ")
    if level:
        text = (_LIKELY if level == 1 else _ALL).sub(lambda found: "\\" + found[0], text)
    elif in_cell:
        text = text.replace("|", "\\|")
    return text.replace("\n", " " if in_cell else "\\\n")


def _stretches(units: Sequence[Unit], items: list[Item], parts: bool) -> dict[int, _Stretch]:
    """Which styles stand around each item (`Item.styles`): the source's own where they still fit, new ones else."""
    known: dict[int, _Stretch] = {}
    numbers: dict[tuple[int, int], int] = {}
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
                    known[number] = _Stretch(unit.styles[one], False)
                    styles.append(number)
                    have.add(look)
        item.styles = tuple(styles)
        missing.append(set(item.looks) - have)
    _spread(items, missing, known)
    _begin_new(items, missing, known, parts)
    _without_blank_ends(items, known)
    _ordered(items, known)
    return known


def _spread(items: list[Item], missing: list[set[str]], known: dict[int, _Stretch]) -> None:
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


def _begin_new(items: list[Item], missing: list[set[str]], known: dict[int, _Stretch], parts: bool) -> None:
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
                known[number] = _Stretch(Style(look, opening, closing), True)
                current[look] = number
            item.styles += (current[look],)


def _address(address: str) -> str:
    return f"<{address}>" if re.search(r"[\s()]", address) else address


def _without_blank_ends(items: list[Item], known: dict[int, _Stretch]) -> None:
    """No style begins or ends on a blank: the signs would not be taken for signs."""
    places: dict[int, list[int]] = {}
    for at, item in enumerate(items):
        for one in item.styles:
            places.setdefault(one, []).append(at)
    for one, own in places.items():
        if known[one].style.look == "code":
            continue
        runs: list[list[int]] = []
        for at in own:
            if runs and runs[-1][-1] == at - 1:
                runs[-1].append(at)
            else:
                runs.append([at])
        for run in runs:
            for order in (run, run[::-1]):
                for at in order:
                    if items[at].text and not items[at].text.isspace():
                        break
                    items[at].styles = tuple(each for each in items[at].styles if each != one)


def _ordered(items: list[Item], known: dict[int, _Stretch]) -> None:
    """Longer styles stand outside; new ones outside the source's own of the same length."""
    size: dict[int, int] = {}
    for item in items:
        for one in item.styles:
            size[one] = size.get(one, 0) + 1
    for item in items:
        if any(known[one].is_new for one in item.styles):
            item.styles = tuple(sorted(item.styles, key=lambda one: (-size[one], known[one].is_new)))
