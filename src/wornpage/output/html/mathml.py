"""The mathematics tree as MathML Core."""

from __future__ import annotations

from html import escape

from wornpage.output.letters import styled_letters
from wornpage.tree import formula as f

_SPACING = {"binary": "", "relation": "", "arrow": "", "punctuation": "", "ordinary": ' lspace="0" rspace="0"'}
_WIDE_SIGNS = {"^": "\u02c6", "~": "\u02dc", "¯": "\u203e", "_": "\u0332"}
_ACCENT_SIGNS = {"^": "^", "~": "~", "¯": "‾", "_": "_"}


def mathml(formula: f.Formula, alt: str, display: bool) -> str:
    """A `<math>` element; `alt` is its text for those who cannot see it."""
    kind = ' display="block"' if display else ""
    return f'<math{kind} alttext="{escape(alt)}">{_row(formula)}</math>'


def running_mathml(formula: f.Formula, alt: str) -> str:
    """Mathematics in running text; a long formula is in pieces, so that lines can break after its relations."""
    pieces = _pieces(formula)
    if len(pieces) < 2 or f.length(formula) < _BREAKS_FROM:
        return mathml(formula, alt, display=False)
    made = "<wbr>".join(f'<math aria-hidden="true">{_row(piece)}</math>' for piece in pieces)
    return f'<span role="math" aria-label="{escape(alt)}">{made}</span>'


_BREAKS_FROM = 16
"""Letters of a formula from which on it may be broken."""


def _pieces(formula: f.Formula) -> list[f.Formula]:
    """A row cut after each relation and arrow."""
    if not isinstance(formula, f.Row):
        return [formula]
    cuts: list[list[f.Formula]] = [[]]
    for item in formula.items:
        cuts[-1].append(item)
        core = item.base if isinstance(item, f.Stacked) else item
        if isinstance(core, f.Operator) and core.form in {"relation", "arrow"} and len(cuts[-1]) > 1:
            cuts.append([])
    return [f.Row(tuple(items)) for items in cuts if items]


def _row(node: f.Formula | None) -> str:
    """`node` as exactly one element."""
    if node is None:
        return "<mrow></mrow>"
    if isinstance(node, f.Row):
        return f"<mrow>{_sequence(node.items)}</mrow>"
    return _write(node)


def _sequence(items: tuple[f.Formula, ...]) -> str:
    """Neighbours, with a thin space beside a function's name where its argument has no fence."""
    made: list[str] = []
    for place, item in enumerate(items):
        if place and _is_named(item) and _is_term(items[place - 1]):
            made.append(_THIN)
        made.append(_operator(item, True) if _has_no_left(items, place) else _write(item))  # type: ignore[arg-type]
        if _is_named(item):
            made.append("<mo>&#x2061;</mo>")
            if place + 1 < len(items) and _is_term(items[place + 1]):
                made.append(_THIN)
    return "".join(made)


def _has_no_left(items: tuple[f.Formula, ...], place: int) -> bool:
    """Whether a sign such as minus stands where nothing is on its left: it binds to what follows."""
    item = items[place]
    if not isinstance(item, f.Operator) or item.form != "binary":
        return False
    before = next((other for other in items[:place][::-1] if not isinstance(other, f.Space)), None)
    return before is None or (isinstance(before, f.Operator) and before.form in f.LEADS_ON)


def _is_named(node: f.Formula) -> bool:
    """Whether `node` is a function's name, with or without scripts."""
    return isinstance(node, f.Function) or (isinstance(node, f.Scripts) and isinstance(node.base, f.Function))


def _is_term(node: f.Formula) -> bool:
    """Whether `node` would stick to a name beside it."""
    return not isinstance(node, f.Operator | f.Fenced | f.Space | f.Sized)


_THIN = '<mspace width="0.167em"></mspace>'


def _write(node: f.Formula) -> str:
    match node:
        case f.Row():
            return _row(node)
        case f.Identifier(text=text, style=style):
            return _identifier(text, style)
        case f.Number(text=text, style=style):
            return f"<mn>{escape(styled_letters(text, style))}</mn>"
        case f.Operator():
            return _operator(node)
        case f.BigOperator(text=text, limits=limits):
            return f'<mo movablelimits="{"true" if limits else "false"}">{text}</mo>'
        case f.Function(text=text):
            return f'<mi mathvariant="normal">{escape(text)}</mi>'
        case f.Words(text=text, style=style):
            return f"<mtext{_text_style(style)}>{_keep_ends(escape(text))}</mtext>"
        case f.Space(width=width):
            return f'<mspace width="{width:.3f}em"></mspace>'
        case f.Scripts():
            return _scripts(node)
        case f.Fraction(numerator=top, denominator=below, line=line, style=style):
            rule = "" if line else ' linethickness="0"'
            look = {"display": ' displaystyle="true"', "text": ' displaystyle="false"'}.get(style, "")
            inner = f"<mfrac{rule}>{_row(top)}{_row(below)}</mfrac>"
            return f"<mstyle{look}>{inner}</mstyle>" if look else inner
        case f.Root(radicand=radicand, degree=degree):
            if degree is None:
                return f"<msqrt>{_row(radicand)}</msqrt>"
            return f"<mroot>{_row(radicand)}{_row(degree)}</mroot>"
        case f.Fenced(open=opening, body=body, close=closing):
            grows = not _is_low(body)
            return f"<mrow>{_fence(opening, 'prefix', grows)}{_row(body)}{_fence(closing, 'postfix', grows)}</mrow>"
        case f.Sized(text=text, size=size, form=form):
            height = f' minsize="{size}em" maxsize="{size}em"' if size else ' symmetric="true"'
            place = {"open": ' form="prefix"', "close": ' form="postfix"'}.get(form, ' form="infix"')
            return f'<mo stretchy="true"{place}{height}>{escape(text)}</mo>' if text else ""
        case f.Accent(base=base, mark=mark, under=under, stretchy=stretchy):
            tag, kind = ("munder", "accentunder") if under else ("mover", "accent")
            wide = "true" if stretchy else "false"
            return f'<{tag} {kind}="true">{_row(base)}<mo stretchy="{wide}">{_accent_sign(mark, stretchy)}</mo></{tag}>'
        case f.Brace(base=base, note=note, over=over):
            return _brace(base, note, over)
        case f.Stacked(base=base, over=over_note, under=under_note):
            return _stacked(base, over_note, under_note)
        case f.Phantom(body=body):
            return f"<mphantom>{_row(body)}</mphantom>"
        case f.Boxed(body=body):
            return f'<mrow class="boxed">{_row(body)}</mrow>'
        case f.Cancelled(body=body):
            return f'<mrow class="cancelled">{_row(body)}</mrow>'
        case f.Coloured(body=body, colour=colour):
            return f'<mrow style="color:{escape(colour)}">{_row(body)}</mrow>'
        case f.Styled(body=body, style=style):
            level = {"display": "0", "text": "0", "script": "1", "scriptscript": "2"}[style]
            look = "true" if style == "display" else "false"
            return f'<mstyle displaystyle="{look}" scriptlevel="{level}">{_row(body)}</mstyle>'
        case f.Grid():
            return _grid(node)
        case f.Tagged(body=body, tag=tag):
            return f'<mrow>{_row(body)}<mspace width="2em"></mspace><mtext>({escape(tag)})</mtext></mrow>'
    raise TypeError(f"no MathML for {type(node).__name__}")


def _identifier(text: str, style: str) -> str:
    if style == "upright" or (len(text) > 1 and style == "italic"):
        return f'<mi mathvariant="normal">{escape(text)}</mi>'
    if style == "italic":
        return f"<mi>{escape(text)}</mi>"
    return f'<mi mathvariant="normal">{escape(styled_letters(text, style))}</mi>'


def _operator(node: f.Operator, is_prefix: bool = False) -> str:
    text = escape(node.text)
    if is_prefix:
        return f'<mo form="prefix" lspace="0" rspace="0">{text}</mo>'
    if node.form in {"open", "close"}:
        return f'<mo form="{"prefix" if node.form == "open" else "postfix"}" stretchy="false">{text}</mo>'
    if node.text in {"|", "‖"}:
        return f'<mo stretchy="false" lspace="0.1em" rspace="0.1em">{text}</mo>'
    if node.form == "ordinary" and node.text.strip("′") == "":
        return f'<mo lspace="0" rspace="0">{text}</mo>'
    stretch = ' stretchy="false"' if node.form == "arrow" else ""
    stretch += ' form="infix"' if node.form in {"relation", "arrow"} else ""
    return f"<mo{_SPACING.get(node.form, '')}{stretch}>{text}</mo>"


def _text_style(style: str) -> str:
    return {"bold": ' style="font-weight:bold"', "italic": ' style="font-style:italic"',
            "mono": ' style="font-family:monospace"', "sans": ' style="font-family:sans-serif"'}.get(style, "")  # fmt: skip


def _keep_ends(text: str) -> str:
    """Spaces at either end, which MathML would drop, as ones it keeps."""
    body = text.strip(" ")
    left, right = len(text) - len(text.lstrip(" ")), len(text) - len(text.rstrip(" "))
    return text and ("\u00a0" * bool(left) + body + "\u00a0" * bool(right))


_LEANING = 0.5
"""How far an upper limit beside an integral stands off its sign, which leans into it: browsers leave that to the font."""


def _scripts(node: f.Scripts) -> str:
    base = node.base
    big = isinstance(base, f.BigOperator | f.Function) and getattr(base, "limits", False)
    above = node.limits if node.limits is not None else (big or isinstance(base, f.Stacked | f.Brace))
    names = ("munder", "mover", "munderover") if above else ("msub", "msup", "msubsup")
    core, before = _row(base), ""
    if (
        isinstance(base, f.Sized) and base.size
    ):  # a fence under scripts would not grow: they go to an empty piece beside it
        half = base.size / 2
        before, core = core, f'<mspace width="0" height="{half + 0.25:.3g}em" depth="{half - 0.25:.3g}em"></mspace>'
    if isinstance(base, f.Function):
        movable = "true" if above and node.limits is None else "false"
        core = f'<mo movablelimits="{movable}" lspace="0" rspace="0">{escape(base.text)}</mo>'
    elif isinstance(base, f.BigOperator) and node.limits is not None:
        core = f'<mo movablelimits="false">{base.text}</mo>'
    sup = _row(node.sup) if node.sup is not None else ""
    if isinstance(base, f.BigOperator) and not above and sup:
        sup = f'<mrow><mspace width="{_LEANING}em"></mspace>{sup}</mrow>'
    if node.sub is not None and node.sup is not None:
        made = f"<{names[2]}>{core}{_row(node.sub)}{sup}</{names[2]}>"
    elif node.sub is not None:
        made = f"<{names[0]}>{core}{_row(node.sub)}</{names[0]}>"
    else:
        made = f"<{names[1]}>{core}{sup}</{names[1]}>"
    return f"<mrow>{before}{made}</mrow>" if before else made


def _is_low(node: f.Formula) -> bool:
    """Whether fences of ordinary height hold `node`: browsers would take the next size for any descender."""
    match node:
        case f.Identifier() | f.Number() | f.Operator() | f.Function() | f.Words() | f.Space():
            return True
        case f.Row(items=items):
            return all(_is_low(item) for item in items)
        case f.Scripts(base=base, sub=sub, sup=sup):
            parts = [part for part in (sub, sup) if part is not None]
            return len(parts) == 1 and _is_low(base) and _is_low(parts[0]) and not isinstance(parts[0], f.Scripts)
        case f.Accent(base=base, under=False):
            return _is_low(base)
    return False


def _fence(text: str, form: str, grows: bool = True) -> str:
    if not text:
        return ""
    if not grows:
        return f'<mo fence="true" form="{form}" stretchy="false">{escape(text)}</mo>'
    return f'<mo fence="true" form="{form}" stretchy="true" symmetric="true">{escape(text)}</mo>'


def _accent_sign(mark: str, stretchy: bool) -> str:
    """The sign of an accent; a wide one is the sign that fonts can stretch."""
    return _WIDE_SIGNS.get(mark, mark) if stretchy else _ACCENT_SIGNS.get(mark, mark)


def _brace(base: f.Formula, note: f.Formula | None, over: bool) -> str:
    tag, sign = ("mover", "⏞") if over else ("munder", "⏟")
    inner = f'<{tag}>{_row(base)}<mo stretchy="true">{sign}</mo></{tag}>'
    return f"<{tag}>{inner}{_row(note)}</{tag}>" if note is not None else inner


def _stacked(base: f.Formula, over: f.Formula | None, under: f.Formula | None) -> str:
    core = f'<mo stretchy="true">{escape(base.text)}</mo>' if isinstance(base, f.Operator) else _row(base)
    if over is not None and under is not None:
        return f"<munderover>{core}{_row(under)}{_row(over)}</munderover>"
    return f"<mover>{core}{_row(over)}</mover>" if over is not None else f"<munder>{core}{_row(under)}</munder>"


def _grid(node: f.Grid) -> str:
    rows = "".join(_grid_row(node, number, row) for number, row in enumerate(node.rows))
    style = ' displaystyle="true"' if node.kind in {"aligned", "gathered"} else ""
    table = f'<mtable class="{node.kind}"{style}>{rows}</mtable>'
    if not node.open and not node.close:
        return table
    return f"<mrow>{_fence(node.open, 'prefix')}{table}{_fence(node.close, 'postfix')}</mrow>"


def _grid_row(node: f.Grid, number: int, row: tuple[f.Formula, ...]) -> str:
    cells = "".join(f"<mtd{_cell_style(node, number, place)}>{_row(cell)}</mtd>" for place, cell in enumerate(row))
    if any(node.tags):
        tag = node.tags[number]
        width = max(len(other) for other in node.rows)
        cells += "<mtd></mtd>" * (width - len(row))
        cells += f'<mtd style="padding-left:2em">{f"<mtext>({escape(tag)})</mtext>" if tag else ""}</mtd>'
    return f"<mtr>{cells}</mtr>"


def _cell_style(node: f.Grid, row: int, column: int) -> str:
    styles = []
    if node.kind == "aligned":
        styles += [
            "text-align:" + ("left" if column % 2 else "right"),
            "padding-left:" + ("0" if column % 2 or not column else "2em"),
            "padding-right:0",
        ]
    elif node.kind == "cases":
        styles.append("text-align:left")
    elif node.kind == "array" and column < len(node.aligns):
        styles.append("text-align:" + {"centre": "center"}.get(node.aligns[column], node.aligns[column]))
    if column in node.rules_after:
        styles.append("border-right:0.06em solid")
    if column == 0 and -1 in node.rules_after:
        styles.append("border-left:0.06em solid")
    if row in node.lines_after:
        styles.append("border-bottom:0.06em solid")
    if row == 0 and -1 in node.lines_after:
        styles.append("border-top:0.06em solid")
    return f' style="{";".join(styles)}"' if styles else ""
