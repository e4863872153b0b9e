"""The mathematics tree as Office mathematics: brackets that belong together are one piece, and sums hold what they sum."""

from __future__ import annotations

from collections.abc import Sequence

from wornpage.output.letters import styled_letters
from wornpage.output.ooxml.xml import escaped
from wornpage.tree import formula as f

_EMPTY = "\u200b"
"""A letter without width: a slot that holds nothing is drawn as a dotted box otherwise."""
_COMBINING = {
    "^": "\u0302", "~": "\u0303", "˙": "\u0307", "¨": "\u0308", "⃛": "\u20db", "→": "\u20d7", "←": "\u20d6",
    "ˇ": "\u030c", "´": "\u0301", "`": "\u0300", "˘": "\u0306", "˚": "\u030a",
}  # fmt: skip
_BETWEEN = {"binary", "relation", "arrow"}
_SIGNS = set("+-−±∓")
"""What may stand before one thing alone."""
_BARS = {"¯", "_", "‾"}
_NAMED_COLOURS = {
    "red": "C00000", "blue": "1F4E9E", "green": "2E7D32", "black": "000000", "gray": "808080", "grey": "808080",
    "orange": "C55A11", "purple": "7030A0", "brown": "7B4A12", "cyan": "007C91", "magenta": "A61C84", "white": "FFFFFF",
}  # fmt: skip


def equation(formula: f.Formula, in_drawing: bool = False, colour: str = "") -> str:
    """`m:oMath` of a formula, for a document, or for a text in a drawing such as a slide has."""
    return f"<m:oMath>{_Writer(in_drawing, colour).filled(formula)}</m:oMath>"


class _Writer:
    """Writes formulas; one method a shape."""

    def __init__(self, in_drawing: bool, colour: str) -> None:
        self.in_drawing, self.colour = in_drawing, colour

    def filled(self, node: f.Formula | None) -> str:
        """A formula for a slot that must not be empty."""
        return self.slot(node) or self.letters(_EMPTY)

    def slot(self, node: f.Formula | None) -> str:
        """A formula that stands by itself: a sign alone has nothing to stand between."""
        return self.letters(node.text, upright=True) if isinstance(node, f.Operator) else self.write(node)

    def letters(self, text: str, style: str = "", words: bool = False, upright: bool = False) -> str:
        """A run of letters; `style` as `m:sty` has it, empty for the slanted letters of names.

        `words` are in the font of the text; what is `upright` is in that of formulas, and no sign that calculates.
        """
        told = "<m:nor/>" if words or upright else f'<m:sty m:val="{style}"/>' if style else ""
        about = f"<m:rPr>{told}</m:rPr>" if told else ""
        looks = self.drawn_looks(words) if self.in_drawing else self.looks(words)
        return f'<m:r>{about}{looks}<m:t xml:space="preserve">{escaped(text)}</m:t></m:r>' if text else ""

    def looks(self, words: bool) -> str:
        """How letters look in a document."""
        font = "" if words else '<w:rFonts w:ascii="Cambria Math" w:hAnsi="Cambria Math"/>'
        colour = f'<w:color w:val="{self.colour}"/>' if self.colour else ""
        return f"<w:rPr>{font}{colour}</w:rPr>" if font or colour else ""

    def drawn_looks(self, words: bool) -> str:
        """So in a drawing."""
        font = "" if words else '<a:latin typeface="Cambria Math"/>'
        colour = f'<a:solidFill><a:srgbClr val="{self.colour}"/></a:solidFill>' if self.colour else ""
        return f"<a:rPr>{colour}{font}</a:rPr>" if font or colour else ""

    def write(self, node: f.Formula | None) -> str:
        """Any formula."""
        match node:
            case None:
                return ""
            case f.Row(items=items):
                return self.row(items)
            case f.Identifier(text=text, style=style):
                return self.name(text, style)
            case f.Number(text=text, style=style):
                return self.letters(styled_letters(text, style), "p")
            case f.Operator(text=text, form=form):
                return self.letters(text, "p", upright=form in {"ordinary", "open", "close"})
            case f.BigOperator():
                return self.sum(node, self.letters(_EMPTY))
            case f.Function(text=text):
                return self.letters(text, upright=True)
            case f.Words(text=text):
                return self.letters(text, words=True)
            case f.Space(width=width):
                return self.letters(_space(width))
            case f.Scripts():
                return self.scripts(node)
            case f.Fraction() | f.Root() | f.Fenced() | f.Sized():
                return self.shape(node)
            case f.Accent() | f.Brace() | f.Stacked():
                return self.decorated(node)
            case f.Phantom() | f.Boxed() | f.Cancelled():
                return self.framed(node)
            case f.Coloured(body=body, colour=colour):
                return self.coloured(body, colour)
            case f.Styled(body=body):
                return self.write(body)
            case f.Tagged(body=body, tag=tag):
                return self.write(body) + self.letters(f"\u2003({tag})", words=True)
            case f.Grid():
                return self.grid(node)
        raise TypeError(f"{type(node).__name__} is no formula that is known here")

    def name(self, text: str, style: str) -> str:
        """A letter, slanted as it comes; upright ones are words, which every program leaves upright."""
        if style == "italic":
            return self.letters(text, "" if len(text) == 1 else "i")
        return (
            self.letters(text, upright=True) if style == "upright" else self.letters(styled_letters(text, style), "p")
        )

    # --- side by side -------------------------------------------------------------------------

    def row(self, items: Sequence[f.Formula]) -> str:
        """Pieces side by side: a sum takes up what it sums, a function its argument."""
        items = _paired(items)
        if len(items) == 1 and isinstance(items[0], f.Operator):
            return self.letters(items[0].text, upright=True)
        made, place = [], 0
        while place < len(items):
            base = _base(items[place])
            if isinstance(base, f.BigOperator):
                end = _end_of_summand(items, place + 1)
                made.append(self.sum(items[place], self.row(items[place + 1 : end]) or self.letters(_EMPTY)))
                place = end
            elif isinstance(base, f.Function):
                end = _end_of_argument(items, place + 1)
                argument = self.write(items[end - 1]) if end > place + 1 else self.letters(_EMPTY)
                name = self.function(items[place])
                made.append(f"<m:func><m:fName>{name}</m:fName><m:e>{argument}</m:e></m:func>")
                place = max(end, place + 1)
            else:
                made.append(self.write(items[place]))
                place += 1
        return self.closed(items, "".join(made))

    def closed(self, items: Sequence[f.Formula], made: str) -> str:
        """A row in which every sign between two things has two: some programs draw a mark for one that is missing."""
        first, last = items[0] if items else None, items[-1] if items else None
        before = isinstance(first, f.Operator) and first.form in _BETWEEN and first.text not in _SIGNS
        after = isinstance(last, f.Operator) and last.form in _BETWEEN
        return self.letters(_EMPTY) * before + made + self.letters(_EMPTY) * after

    def sum(self, node: f.Formula, summand: str) -> str:
        """A sum or an integral with its limits and what it goes over."""
        base = _base(node)
        assert isinstance(base, f.BigOperator)
        scripts = node if isinstance(node, f.Scripts) else f.Scripts(base, None, None)
        limits = base.limits if scripts.limits is None else scripts.limits
        hidden = ("" if scripts.sub else '<m:subHide m:val="1"/>') + ("" if scripts.sup else '<m:supHide m:val="1"/>')
        place = "undOvr" if limits else "subSup"
        return (
            f'<m:nary><m:naryPr><m:chr m:val="{escaped(base.text)}"/><m:limLoc m:val="{place}"/>{hidden}</m:naryPr>'
            f"<m:sub>{self.slot(scripts.sub)}</m:sub><m:sup>{self.slot(scripts.sup)}</m:sup><m:e>{summand}</m:e></m:nary>"
        )

    def function(self, node: f.Formula) -> str:
        """The name of a function with its limits or scripts."""
        base = _base(node)
        assert isinstance(base, f.Function)
        name = self.letters(base.text, upright=True)
        if not isinstance(node, f.Scripts):
            return name
        return (
            self.with_limits(name, node.sub, node.sup) if base.limits or node.limits else self.with_scripts(name, node)
        )

    # --- scripts ------------------------------------------------------------------------------

    def scripts(self, node: f.Scripts) -> str:
        """A base with scripts, beside it or above and below."""
        if isinstance(node.base, f.BigOperator):
            return self.sum(node, self.letters(_EMPTY))
        if isinstance(node.base, f.Function):
            return self.function(node)
        base = self.filled(node.base)
        if node.limits or isinstance(node.base, f.Stacked | f.Brace):
            return self.with_limits(base, node.sub, node.sup)
        return self.with_scripts(base, node)

    def with_scripts(self, base: str, node: f.Scripts) -> str:
        below, above = self.slot(node.sub), self.slot(node.sup)
        if below and above:
            return f"<m:sSubSup><m:e>{base}</m:e><m:sub>{below}</m:sub><m:sup>{above}</m:sup></m:sSubSup>"
        if below:
            return f"<m:sSub><m:e>{base}</m:e><m:sub>{below}</m:sub></m:sSub>"
        return f"<m:sSup><m:e>{base}</m:e><m:sup>{above or self.letters(_EMPTY)}</m:sup></m:sSup>"

    def with_limits(self, base: str, below: f.Formula | None, above: f.Formula | None) -> str:
        for tag, limit in (("limLow", below), ("limUpp", above)):
            if limit is not None:
                base = f"<m:{tag}><m:e>{base}</m:e><m:lim>{self.filled(limit)}</m:lim></m:{tag}>"
        return base

    # --- shapes -------------------------------------------------------------------------------

    def shape(self, node: f.Fraction | f.Root | f.Fenced | f.Sized) -> str:
        """What holds other formulas in a shape of its own."""
        match node:
            case f.Fraction(numerator=above, denominator=below, line=line):
                kind = "" if line else '<m:fPr><m:type m:val="noBar"/></m:fPr>'
                return f"<m:f>{kind}<m:num>{self.filled(above)}</m:num><m:den>{self.filled(below)}</m:den></m:f>"
            case f.Root(radicand=radicand, degree=None):
                hidden = '<m:radPr><m:degHide m:val="1"/></m:radPr><m:deg/>'
                return f"<m:rad>{hidden}<m:e>{self.filled(radicand)}</m:e></m:rad>"
            case f.Root(radicand=radicand, degree=degree):
                return f"<m:rad><m:deg>{self.filled(degree)}</m:deg><m:e>{self.filled(radicand)}</m:e></m:rad>"
            case f.Fenced(open=opening, body=body, close=closing):
                return _fenced(opening, closing, self.filled(body))
            case f.Sized(text=text):
                return self.letters(text, upright=True)

    def decorated(self, node: f.Accent | f.Brace | f.Stacked) -> str:
        """A base with a sign or words over or under it."""
        base = self.filled(node.base)
        match node:
            case f.Accent(mark=mark, under=under) if mark in _BARS:
                side = "bot" if under else "top"
                return f'<m:bar><m:barPr><m:pos m:val="{side}"/></m:barPr><m:e>{base}</m:e></m:bar>'
            case f.Accent(mark=mark, under=True):
                return _grouped(mark, "bot", base)
            case f.Accent(mark=mark):
                sign = escaped(_COMBINING.get(mark, mark))
                return f'<m:acc><m:accPr><m:chr m:val="{sign}"/></m:accPr><m:e>{base}</m:e></m:acc>'
            case f.Brace(note=note, over=over):
                braced = _grouped("⏞" if over else "⏟", "top" if over else "bot", base)
                return self.with_limits(braced, None if over else note, note if over else None)
            case f.Stacked(over=over, under=under):
                return self.with_limits(base, under, over)

    def framed(self, node: f.Phantom | f.Boxed | f.Cancelled) -> str:
        """What is hidden, boxed or struck through."""
        body = self.filled(node.body)
        match node:
            case f.Phantom():
                return f'<m:phant><m:phantPr><m:show m:val="0"/></m:phantPr><m:e>{body}</m:e></m:phant>'
            case f.Boxed():
                return f"<m:borderBox><m:e>{body}</m:e></m:borderBox>"
            case f.Cancelled():
                hidden = "".join(f'<m:hide{side} m:val="1"/>' for side in ("Top", "Bot", "Left", "Right"))
                return f'<m:borderBox><m:borderBoxPr>{hidden}<m:strikeBLTR m:val="1"/></m:borderBoxPr><m:e>{body}</m:e></m:borderBox>'

    def coloured(self, body: f.Formula, colour: str) -> str:
        """A formula in a colour: six or three digits after `#`, or one of the usual names."""
        outer = self.colour
        digits = colour.lstrip("#")
        if len(digits) == 3:
            digits = "".join(digit * 2 for digit in digits)
        is_digits = len(digits) == 6 and all(digit in "0123456789abcdefABCDEF" for digit in digits)
        self.colour = digits.upper() if is_digits else _NAMED_COLOURS.get(colour.lower(), outer)
        made = self.write(body)
        self.colour = outer
        return made

    # --- rows and columns ---------------------------------------------------------------------

    def grid(self, node: f.Grid) -> str:
        """A matrix, cases or lines below each other."""
        if node.kind in {"gathered", "substack"}:
            lines = "".join(f"<m:e>{self.row(line) or self.letters(_EMPTY)}</m:e>" for line in node.rows)
            made = f"<m:eqArr>{lines}</m:eqArr>"
        else:
            made = self.matrix(node)
        return _fenced(node.open, node.close, made) if node.open or node.close or node.kind == "cases" else made

    def matrix(self, node: f.Grid) -> str:
        """Cells in columns; those of an aligned block stand close, right and left in turn."""
        count = max(map(len, node.rows), default=1) or 1
        sides = [_side(node, place) for place in range(count)]
        columns = "".join(
            f'<m:mc><m:mcPr><m:count m:val="1"/><m:mcJc m:val="{side}"/></m:mcPr></m:mc>' for side in sides
        )
        close = '<m:cGpRule m:val="3"/><m:cGp m:val="0"/>' if node.kind == "aligned" else ""
        rows = []
        for number, row in enumerate(node.rows):
            tag = node.tags[number] if number < len(node.tags) else ""
            cells = [self.filled(row[place]) if place < len(row) else self.letters(_EMPTY) for place in range(count)]
            cells[-1] += self.letters(f"\u2003({tag})", words=True) if tag else ""
            rows.append("<m:mr>" + "".join(f"<m:e>{cell}</m:e>" for cell in cells) + "</m:mr>")
        return f"<m:m><m:mPr>{close}<m:mcs>{columns}</m:mcs></m:mPr>{''.join(rows)}</m:m>"


def _base(node: f.Formula) -> f.Formula:
    return node.base if isinstance(node, f.Scripts) else node


def _paired(items: Sequence[f.Formula]) -> list[f.Formula]:
    """Brackets that belong together as one fenced piece; scripts on the closing one go to the whole.

    Some programs lose the rest of a formula at a bracket that stands alone.
    """
    open_ones: list[tuple[f.Formula | None, list[f.Formula]]] = [(None, [])]
    for place, item in enumerate(items):
        opening, inside = open_ones[-1]
        follows = bool(inside) and not _leads_on(inside[-1])
        role = _role(item, opening, follows, items[place + 1 :])
        if role == "close" and _sign(_base(item)) not in _BARS_OF_VALUES:
            while len(open_ones) > 1 and _sign(open_ones[-1][0]) in _BARS_OF_VALUES:
                _let_be(open_ones)
            opening, inside = open_ones[-1]
        if role == "close" and opening is not None:
            open_ones.pop()
            fenced = f.Fenced(_sign(opening), f.Row(tuple(inside)), _sign(_base(item)))
            whole = f.Scripts(fenced, item.sub, item.sup, item.limits) if isinstance(item, f.Scripts) else fenced
            open_ones[-1][1].append(whole)
        elif role == "open":
            open_ones.append((item, []))
        else:
            inside.append(item)
    while len(open_ones) > 1:
        _let_be(open_ones)
    return open_ones[0][1]


def _let_be(open_ones: list[tuple[f.Formula | None, list[f.Formula]]]) -> None:
    """Take the last bracket that is open as a sign that stands alone."""
    opening, inside = open_ones.pop()
    open_ones[-1][1].extend([f.Operator(_sign(opening), "open"), *inside])


_BARS_OF_VALUES = {"|", "‖", "∣", "∥"}


def _role(item: f.Formula, opening: f.Formula | None, follows: bool, rest: Sequence[f.Formula]) -> str:
    """What a piece does to brackets: `open`, `close` or nothing; `follows` if something stands before it that it can close.

    A bar closes one that is open; else it opens where another comes.
    """
    base = _base(item)
    if not isinstance(base, f.Operator | f.Sized):
        return ""
    if base.text in _BARS_OF_VALUES and base.form not in {"relation", "binary"}:
        if opening is not None and _sign(opening) == base.text and follows:
            return "close"
        return "open" if base is item and any(_sign(_base(later)) == base.text for later in rest) else ""
    if base.form == "open":
        return "open" if base is item else ""
    return base.form if base.form == "close" else ""


def _sign(bracket: f.Formula | None) -> str:
    return bracket.text if isinstance(bracket, f.Operator | f.Sized) else ""


def _leads_on(item: f.Formula) -> bool:
    """Whether something must follow: after `=` a bar begins something."""
    return isinstance(item, f.Operator) and item.form in f.LEADS_ON


def _end_of_summand(items: Sequence[f.Formula], start: int) -> int:
    """Where what a sum goes over ends: at a relation, a comma, or a sign between terms."""
    for place in range(start, len(items)):
        item = items[place]
        if isinstance(item, f.Operator):
            if item.form in {"relation", "arrow", "punctuation", "close"}:
                return place
            if item.form == "binary" and place > start and item.text in "+-−±∓":
                return place
    return len(items)


def _end_of_argument(items: Sequence[f.Formula], start: int) -> int:
    """Just after the argument of a function; `start` where nothing is one."""
    place = start
    while place < len(items) and isinstance(items[place], f.Space):
        place += 1
    is_one = place < len(items) and not isinstance(_base(items[place]), f.Operator | f.BigOperator | f.Function)
    return place + 1 if is_one else start


def _fenced(opening: str, closing: str, body: str) -> str:
    signs = f'<m:begChr m:val="{escaped(opening)}"/><m:endChr m:val="{escaped(closing)}"/>'
    return f"<m:d><m:dPr>{signs}</m:dPr><m:e>{body}</m:e></m:d>"


def _grouped(sign: str, side: str, body: str) -> str:
    other = "bot" if side == "top" else "top"
    about = f'<m:chr m:val="{escaped(sign)}"/><m:pos m:val="{side}"/><m:vertJc m:val="{other}"/>'
    return f"<m:groupChr><m:groupChrPr>{about}</m:groupChrPr><m:e>{body}</m:e></m:groupChr>"


def _side(grid: f.Grid, column: int) -> str:
    if grid.kind == "aligned":
        return "right" if column % 2 == 0 else "left"
    if grid.kind == "cases":
        return "left"
    given = grid.aligns[column] if column < len(grid.aligns) else ""
    return given if given in {"left", "right"} else "center"


_WIDTHS: tuple[tuple[float, str], ...] = (
    (1.6, "\u2003\u2003"),
    (0.7, "\u2003"),
    (0.3, "\u2004"),
    (0.2, "\u2005"),
    (0.05, "\u2009"),
)


def _space(width: float) -> str:
    """A space of about so many ems."""
    return next((letter for least, letter in _WIDTHS if width > least), "")
