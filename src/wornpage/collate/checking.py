"""Whether changed source reads as it should: the blocks around each change are read again."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from wornpage.collate.items import Item
from wornpage.collate.report import Patch, applied
from wornpage.source.heads import head_texts
from wornpage.source.text import front_matter_of
from wornpage.source.units import Source, Unit, units_of

Reading = tuple[str, int, tuple[tuple[str, frozenset[str]], ...]]
"""Kind, level, and each letter or object with its looks."""
HEAD = ("title", "abstract")
"""Kinds of units in the front matter."""
FLOW = {"p", "h", "li", "quote"}
"""Kinds that stand by themselves, in the document in the order of the source."""
_BEFORE = "x\n\n"
"""Stands before a stretch, so that no line in it is taken for that of a page's head."""
_DEFINITION = re.compile(r"^ {0,3}\[(?!\^)[^\]\n]+\]:.*$", re.MULTILINE)
_NOTE = re.compile(r"^ {0,3}\[\^([^\]\s]+)\]:", re.MULTILINE)


def reading(unit: Unit) -> Reading:
    """How a unit reads."""
    said = [(atom.raw if atom.key else atom.text, unit.looks(atom)) for atom in unit.atoms if atom.key or atom.text]
    return kind_of(unit), level_of(unit), _normal(said)


def kind_of(unit: Unit) -> str:
    """The kind of a unit; further paragraphs of an item are paragraphs."""
    return "p" if unit.kind == "item" else unit.kind


def level_of(unit: Unit) -> int:
    """The level of a heading."""
    return unit.level if unit.kind == "h" else 0


def reading_of(items: Iterable[Item], units: Sequence[Unit], kind: str, level: int) -> Reading:
    """How items are to read."""
    said: list[tuple[str, frozenset[str]]] = []
    for item in items:
        atom = units[item.unit].atoms[item.atom] if item.unit >= 0 else None
        if atom is None or atom.key or atom.text:
            said.append((atom.raw if atom is not None and atom.key else item.text, item.looks))
    return kind, level, _normal(said)


def _normal(said: list[tuple[str, frozenset[str]]]) -> tuple[tuple[str, frozenset[str]], ...]:
    """Without blanks at the ends; looks of blanks do not count, nor does what blank it is."""
    made = [(" ", frozenset[str]()) if text.isspace() else (text, looks) for text, looks in said if text]
    while made and made[-1][0] == " ":
        made.pop()
    first = next((at for at, (text, _) in enumerate(made) if text != " "), len(made))
    short: list[tuple[str, frozenset[str]]] = []
    for one in made[first:]:
        if not (one[0] == " " and short and short[-1][0] == " "):
            short.append(one)
    return tuple(short)


def _front_of(text: str) -> object:
    """The front matter but for the texts that are merged; those have to be what they are read as here."""
    from ruamel.yaml import YAML
    from ruamel.yaml.error import YAMLError

    front, _, problems = front_matter_of(text, "")
    try:
        held = YAML(typ="safe").load(front.text)
    except YAMLError:
        return None
    if problems or not isinstance(held, dict):
        return None
    known = {head.name: head.text for head in head_texts(text)}
    if any(str(held.get(name, "")).rstrip("\n") != said.rstrip("\n") for name, said in known.items()):
        return None
    return {key: value for key, value in held.items() if key not in known}


class Checker:
    """Checks patches against the page that they are for."""

    def __init__(self, source: Source) -> None:
        self.source = source
        self.places = {id(unit): at for at, unit in enumerate(source.units)}
        self._definitions = _DEFINITION.findall(source.text)
        self._notes = set(_NOTE.findall(source.text))

    def holds(self, patches: Sequence[Patch], first: int, last: int, wanted: Sequence[Reading]) -> bool:
        """Whether with `patches` the units from `first` to before `last` read as wanted, and those around them as before."""
        units = self.source.units
        if any(kind in HEAD for kind in [*(unit.kind for unit in units[first:last]), *(one[0] for one in wanted)]):
            return self._head_holds(patches, first, last, wanted)
        begin, end = self._window(patches)
        inside = [at for at, unit in enumerate(units) if begin <= unit.start <= end]
        low, high = (inside[0], inside[-1] + 1) if inside else (first, first)
        low, high = min(low, first), max(high, last)
        expected = [*map(reading, units[low:first]), *wanted, *map(reading, units[last:high])]
        return self._read(begin, end, patches) == expected

    def _head_holds(self, patches: Sequence[Patch], first: int, last: int, wanted: Sequence[Reading]) -> bool:
        """So for the front matter: all else in it says what it said, as YAML reads it."""
        made = applied(self.source.text, patches)
        read = [reading(unit) for unit in units_of(made).units if unit.kind in HEAD]
        heads = [unit for unit in self.source.units if unit.kind in HEAD]
        expected = [*map(reading, heads[:first]), *wanted, *map(reading, heads[last:])]
        return read == expected and _front_of(made) == _front_of(self.source.text)

    def _window(self, patches: Sequence[Patch]) -> tuple[int, int]:
        """The blocks of the page's own level that patches lie in, and one more on each side."""
        start, stop = min(patch.start for patch in patches), max(patch.end for patch in patches)
        tops = self.source.tops
        touched = [at for at, (begin, end) in enumerate(tops) if begin <= stop and end >= start]
        if touched:
            low, high = touched[0], touched[-1]
        else:
            low = sum(end < start for _, end in tops)
            high = low - 1
        low, high = max(low - 1, 0), min(high + 1, len(tops) - 1)
        begin = tops[low][0] if tops else 0
        end = max(stop, *(tops[at][1] for at in range(low, high + 1))) if tops else len(self.source.text)
        return self._whole_blocks(min(begin, start), end)

    def _whole_blocks(self, begin: int, end: int) -> tuple[int, int]:
        """A stretch that parts no block: a note may be written within one, and is a block of its own."""
        while True:
            around = [(start, stop) for start, stop in self.source.tops if start < end and begin < stop]
            low, high = min((begin, *(start for start, _ in around))), max((end, *(stop for _, stop in around)))
            if (low, high) == (begin, end):
                return begin, end
            begin, end = low, high

    def _read(self, begin: int, end: int, patches: Sequence[Patch]) -> list[Reading] | None:
        """The stretch with its patches, read again: with definitions that lie elsewhere, and calls of the notes in it."""
        moved = [Patch(one.start - begin, one.end - begin, one.text) for one in patches]
        text = applied(self.source.text[begin:end], moved)
        inside = set(_NOTE.findall(text))
        further = [
            *self._definitions,
            *(f"[^{name}]: x" for name in sorted(self._notes - inside) if f"[^{name}]" in text),
        ]
        calls = " ".join(f"[^{name}]" for name in sorted(inside))
        whole = _BEFORE + text + "\n\n" + "\n\n".join(further) + "\n\n" + calls + "\n"
        read = units_of(whole).units
        stop = len(_BEFORE) + len(text)
        return [reading(unit) for unit in read if len(_BEFORE) <= unit.start <= stop and unit.first < stop]
