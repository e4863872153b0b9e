"""Tables by `booktabs`: what is long breaks across sheets, what is wide has smaller letters, or lies on its side."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

from wornpage.output.tex import letters
from wornpage.output.widths import SIZES, Fit, fit
from wornpage.tree import nodes as n

_LONG = 32
"""Rows beyond which a table breaks across sheets."""
_ON_ITS_SIDE = 23.0
"""Centimetres that a sheet lying on its side has from margin to margin."""
_SIDES = {"left": "l", "right": "r", "centre": "c"}
_POINT = 2.54 / 72
_USUAL, _NARROWER = 8.0, 0.84
"""Points from which on letters are as wide as is reckoned; what is left of a width for smaller ones."""
Words = Callable[[n.Inlines], str]


class Laid(Struct, frozen=True):
    """A table in LaTeX, and how it stands."""

    bodies: tuple[str, ...]
    """`tabular` without what stands around it; several where it had to be parted."""
    size: str
    """What sets the letters' size."""
    is_small: bool
    """Whether the letters are as small as they may be."""
    is_long: bool
    on_its_side: bool


def laid(table: n.TextTable, room: float, may_turn: bool, may_break: bool, words: Words, caption: str = "") -> Laid:
    """A table for `room` centimetres. `caption` is what stands above one that breaks."""
    fitted, turned = _fit(table, room), False
    if len(fitted.groups) > 1 and may_turn:
        aside = _fit(table, _ON_ITS_SIDE)
        if len(aside.groups) == 1:
            fitted, room, turned = aside, _ON_ITS_SIDE, True
    is_long = may_break and len(table.rows) > _LONG
    write = _Writer(table, fitted, room, words)
    bodies = tuple(
        write.tabular(group, is_long, caption if place == 0 else "") for place, group in enumerate(fitted.groups)
    )
    return Laid(bodies, rf"\wornsize{{{fitted.size:g}}}", fitted.size <= SIZES[-2], is_long, turned)


def _fit(table: n.TextTable, room: float) -> Fit:
    """How a table is set: LaTeX's small letters are drawn wider than its usual ones."""
    fitted = fit(table, room)
    return fitted if fitted.size >= _USUAL else fit(table, room * _NARROWER)


class _Writer:
    def __init__(self, table: n.TextTable, fitted: Fit, room: float, words: Words) -> None:
        self.table, self.fitted, self.room, self.words = table, fitted, room, words

    def tabular(self, group: tuple[int, ...], is_long: bool, caption: str) -> str:
        """Some of the columns, with their heads."""
        columns = "".join(self.column(place, group) for place in group)
        name = "longtable" if is_long else "tabular"
        head = self.heads(group)
        lines = [rf"\begin{{{name}}}{{@{{}}{columns}@{{}}}}"]
        if caption and is_long:
            lines.append(caption + r"\\")
        lines += [r"\toprule", *head, *([r"\midrule"] if head else [])]
        if is_long:
            again = [r"\toprule", *head, r"\midrule"] if head else [r"\toprule"]
            lines += [r"\endfirsthead", *again, r"\endhead", r"\bottomrule", r"\endfoot"]
        lines += self.rows(group)
        lines += [] if is_long else [r"\bottomrule"]
        return "\n".join([*lines, rf"\end{{{name}}}"])

    def column(self, place: int, group: tuple[int, ...]) -> str:
        if place not in self.fitted.wraps:
            return _SIDES.get(self.table.aligns[place], "l")
        wrapping = [one for one in group if one in self.fitted.wraps]
        taken = sum(self.fitted.needs[one] for one in group if one not in self.fitted.wraps) * self.fitted.size * _POINT
        width = max(2.0, (self.room - taken) / len(wrapping) - 0.45)
        return rf">{{\raggedright\arraybackslash}}p{{{width:.2f}cm}}"

    def heads(self, group: tuple[int, ...]) -> list[str]:
        """Rows of heads of the columns in `group`, and the rules under those that span several."""
        lines: list[str] = []
        for row in self.table.heads:
            cells, rules, column, at = [], [], 0, 1
            for cell in row:
                covered = [place for place in range(column, column + cell.span) if place in group]
                column += cell.span
                if not covered:
                    continue
                made = self.words(cell.text)
                if cell.span > 1:
                    cells.append(rf"\multicolumn{{{len(covered)}}}{{c}}{{{made}}}")
                    rules.append(rf"\cmidrule(lr){{{at}-{at + len(covered) - 1}}}")
                elif self.table.aligns[covered[0]] == "right" or covered[0] in self.fitted.wraps:
                    side = "r" if self.table.aligns[covered[0]] == "right" else "l"
                    cells.append(rf"\multicolumn{{1}}{{{side}}}{{{made}}}" if made and side == "r" else made)
                else:
                    cells.append(made)
                at += len(covered)
            lines.append(" & ".join(cells) + r" \\" + "".join(f" {rule}" for rule in rules))
        return lines if any(cell.text for row in self.table.heads for cell in row) else []

    def rows(self, group: tuple[int, ...]) -> list[str]:
        lines, has_groups = [], False
        for number, row in enumerate(self.table.rows):
            kind = self.table.kind(number)
            if kind == "group":
                has_groups = True
                lines.append(rf"\multicolumn{{{len(group)}}}{{@{{}}l}}{{\textit{{{self.words(row[0])}}}}} \\")
                continue
            if kind == "foot" and self.table.kind(number - 1) != "foot":
                lines.append(r"\midrule")
            cells = [self.words(row[place]).replace("\n", " ") for place in group]
            if has_groups and kind != "foot":
                cells[0] = rf"\quad {cells[0]}"
            stays = r" \\*" if self.table.kind(number + 1) == "continued" else r" \\"
            lines.append(("{}" if cells[0].startswith(("[", "*")) else "") + " & ".join(cells) + stays)
        return [line.replace(r"\\" + "\n[", r"\\{}" + "\n[") for line in lines]


def notes_below(table: n.TextTable, words: Words) -> list[str]:
    """What stands below a table."""
    made = [(rf"\textsuperscript{{{letters.text(mark)}}}" if mark else "") + words(said) for mark, said in table.notes]
    return [*([f"\\dots{{}} {letters.text(table.note)}"] if table.note else []), *made]
