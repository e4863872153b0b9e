"""The mathematics tree in the typesetter's notation, letter by letter, nothing left to guess."""

from __future__ import annotations

import re
import unicodedata

from wornpage.output.pdf.strings import string
from wornpage.tree import formula as f

_STYLES = {
    "upright": "upright", "bold": "bold(upright({}))", "bold-italic": "bold(italic({}))", "double-struck": "bb({})",
    "script": "cal({})", "fraktur": "frak({})", "sans": "sans({})", "mono": "mono({})", "italic": "italic({})",
}  # fmt: skip
_CLASSES = {
    "binary": "binary", "relation": "relation", "arrow": "relation", "punctuation": "punctuation", "open": "opening",
    "close": "closing", "ordinary": "normal",
}  # fmt: skip
_ACCENTS = {
    "^": "hat", "~": "tilde", "¯": "macron", "→": "arrow", "←": "arrow.l", "˙": "dot", "¨": "dot.double",
    "⃛": "dot.triple", "ˇ": "caron", "˘": "breve", "´": "acute", "`": "grave", "˚": "circle",
}  # fmt: skip
_NOTHING = '""'
_ALIGN_CELL = {"left": "& {}", "right": "{} &", "centre": "{}"}


def equation(formula: f.Formula, alt: str, display: bool, number: str = "") -> str:
    """A call that sets `formula`; `alt` is its text for those who cannot see it."""
    shown = f", numbering: _ => {string(f'({number})')}" if number else ", numbering: none"
    body = _top(formula) if display else _write(formula)
    return f"math.equation(block: {str(display).lower()}, alt: {string(alt)}{shown}, ${body or ' '}$)"


def _top(formula: f.Formula) -> str:
    """A display: an aligned block fills it, with its own line breaks."""
    if (
        isinstance(formula, f.Grid)
        and formula.kind in {"aligned", "gathered"}
        and len(formula.rows) > 1
        and not any(formula.tags)
    ):
        return " \\ ".join(_aligned_row(row) for row in formula.rows)
    return _write(formula)


def _aligned_row(row: tuple[f.Formula, ...]) -> str:
    """Cells of an aligned row: right and left in turn, as the typesetter takes them too."""
    return " & ".join(_write(cell) for cell in row)


def _write(node: f.Formula | None) -> str:
    match node:
        case None:
            return ""
        case f.Row(items=items):
            return "".join(_in_row(items, place) for place in range(len(items)))  # a space between would be seen
        case f.Identifier(text=text, style=style):
            return _letters(text, style)
        case f.Number(text=text, style=style):
            return _letters(text, style)
        case f.Operator(text=text, form=form):
            return f'class("{_CLASSES.get(form, "normal")}", {_sign(text)})'
        case f.BigOperator(text=text):
            return text
        case f.Function(text=text, limits=limits):
            return f"op({string(text)}, limits: #{str(limits).lower()})"
        case f.Words(text=text, style=style):
            text = re.sub(r"^ | $", "\u00a0", text)  # a space at the end of a text would be lost
            words = (
                f"#text(font: body-font, {string(text)})"
                if style != "mono"
                else f"#text(font: code-font, {string(text)})"
            )
            return {"bold": f"#strong[{words}]", "italic": f"#emph[{words}]"}.get(style, words) + ";"
        case f.Space(width=width):
            return f"#h({width:.3f}em);"
        case f.Scripts():
            return _scripts(node)
        case f.Fraction(numerator=top, denominator=below, line=line, style=style):
            made = (
                f"frac({_write(top)}, {_write(below)})"
                if line
                else f"mat(delim: #none, {_write(top)}; {_write(below)})"
            )
            return {"display": f"display({made})", "text": f"inline({made})"}.get(style, made)
        case f.Root(radicand=radicand, degree=degree):
            return f"root({_write(degree)}, {_write(radicand)})" if degree else f"sqrt({_write(radicand)})"
        case f.Fenced(open=opening, body=body, close=closing):
            if isinstance(body, f.Fraction) and not body.line:
                made = f"binom({_write(body.numerator)}, {_write(body.denominator)})"
                return {"display": f"display({made})", "text": f"inline({made})"}.get(body.style, made)
            return f"lr({_sign(opening)}{_write(body)}{_sign(closing)})"
        case f.Sized(text=text, size=size):
            return (f"lr({_sign(text)}, size: #{size}em)" if size else f"mid({_sign(text)})") if text else ""
        case f.Accent():
            return _accent(node)
        case f.Brace(base=base, note=note, over=over):
            name = "overbrace" if over else "underbrace"
            return f"{name}({_write(base)}, {_write(note)})" if note is not None else f"{name}({_write(base)})"
        case f.Stacked(base=base, over=over_note, under=under_note):
            core = (
                f"stretch({_sign(base.text)})"
                if isinstance(base, f.Operator) and base.form == "arrow"
                else _write(base)
            )
            return _attached(f"limits({core})", under_note, over_note)
        case f.Phantom(body=body):
            return f"#hide(${_write(body)}$);"
        case f.Boxed(body=body):
            return f"#box(stroke: 0.5pt, inset: 0.3em, baseline: 0.3em, $display({_write(body)})$);"
        case f.Cancelled(body=body):
            return f"cancel({_write(body)})"
        case f.Coloured(body=body, colour=colour):
            return f"#text(fill: {_colour(colour)}, ${_write(body)}$);"
        case f.Styled(body=f.Grid() as grid, style="script"):  # a matrix scales its cells down itself
            return f"inline({_write(grid)})"
        case f.Styled(body=body, style=style):
            name = {"display": "display", "text": "inline", "script": "script", "scriptscript": "sscript"}[style]
            return f"{name}({_write(body)})"
        case f.Grid():
            return _grid(node)
        case f.Tagged(body=body, tag=tag):
            return f"{_write(body)} #h(2em) #text(font: body-font, {string(f'({tag})')});"
    raise TypeError(f"no notation for {type(node).__name__}")


def _letters(text: str, style: str) -> str:
    quoted = string(text)
    if style == "upright":
        return f"upright({quoted})" if len(text) == 1 else quoted
    return _STYLES[style].format(quoted)


def _sign(text: str) -> str:
    """A sign as the typesetter reads it: nothing of it is notation."""
    if not text:
        return ""
    return "".join(f"\\{letter}" if _is_special(letter) else letter for letter in text)


def _colour(colour: str) -> str:
    known = {
        "red",
        "blue",
        "green",
        "black",
        "gray",
        "orange",
        "purple",
        "teal",
        "navy",
        "maroon",
        "olive",
        "silver",
        "white",
        "yellow",
    }
    if colour.startswith("#"):
        return f'rgb("{colour}")'
    return colour if colour in known else "black"


def _in_row(items: tuple[f.Formula, ...], place: int) -> str:
    """An item of a row; a sign such as minus binds to what follows where nothing stands before it."""
    item = items[place]
    if isinstance(item, f.Operator) and item.form == "binary":
        before = next((other for other in items[:place][::-1] if not isinstance(other, f.Space)), None)
        if before is None or (isinstance(before, f.Operator) and before.form in f.LEADS_ON):
            return _write(f.Operator(item.text, "ordinary"))
    return _write(item)


def _scripts(node: f.Scripts) -> str:
    core = _write(node.base) or _NOTHING
    if node.limits is True:
        core = f"limits({core})"
    elif node.limits is False:
        core = f"scripts({core})"
    return _attached(core, node.sub, node.sup)


def _attached(core: str, sub: f.Formula | None, sup: f.Formula | None) -> str:
    below = f", b: {_write(sub) or _NOTHING}" if sub is not None else ""
    above = f", t: {_write(sup) or _NOTHING}" if sup is not None else ""
    return f"attach({core}{below}{above})"


def _accent(node: f.Accent) -> str:
    base = _write(node.base)
    if node.mark == "¯" and node.stretchy:
        return f"overline({base})"
    if node.under:
        return f"underline({base})"
    return f"accent({base}, {_ACCENTS[node.mark]})"


def _grid(node: f.Grid) -> str:
    if node.kind in {"aligned", "gathered"}:
        rows = [" & ".join(f"display({_write(cell) or _NOTHING})" for cell in row) for row in node.rows]
        if any(node.tags):
            rows = [
                f"{row} & #h(2em) #text(font: body-font, {string(f'({tag})' if tag else '')});"
                for row, tag in zip(rows, node.tags, strict=True)
            ]
        return f"mat(delim: #none, row-gap: #0.5em, {'; '.join(rows)})"
    if node.kind == "substack":
        rows = [" ".join(_write(cell) for cell in row) for row in node.rows]
        return f"mat(delim: #none, row-gap: #0.25em, {'; '.join(rows)})"
    if node.kind == "cases":
        rows = [" & ".join(_write(cell) for cell in row) for row in node.rows]
        reverse = "" if node.open else "reverse: #true, "
        return f"cases({reverse}{', '.join(rows)})"
    rows = [", ".join(_cell(node, place, cell) for place, cell in enumerate(row)) for row in node.rows]
    delimiters = f"delim: #({_delimiter(node.open)}, {_delimiter(node.close)})"
    lines = [str(line + 1) for line in node.lines_after]
    rules = [str(rule + 1) for rule in node.rules_after]
    augment = ""
    if lines or rules:
        augment = f", augment: #(hline: ({''.join(line + ',' for line in lines)}), vline: ({''.join(rule + ',' for rule in rules)}))"
    return f"mat({delimiters}{augment}, {'; '.join(rows)})"


def _cell(node: f.Grid, place: int, cell: f.Formula) -> str:
    align = node.aligns[place] if place < len(node.aligns) else "centre"
    return _ALIGN_CELL[align].format(_write(cell) or _NOTHING)


def _delimiter(sign: str) -> str:
    return string(sign) if sign else "none"


def _is_special(letter: str) -> bool:
    """Whether a letter means something to the typesetter: ASCII signs, and every fence, which it would want closed."""
    return (letter.isascii() and not letter.isalnum()) or unicodedata.category(letter) in {"Ps", "Pe"}
