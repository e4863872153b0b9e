"""A formula in one line of text, for what shows no formulas: fractions with a slash, roots and powers with their signs.

After the linear notation that Unicode Technical Note 28 describes.
"""

from __future__ import annotations

from wornpage.tree import formula as f

_ACCENTS = {"^": "\u0302", "~": "\u0303", "¯": "\u0304", "˙": "\u0307", "¨": "\u0308", "→": "\u20d7", "ˇ": "\u030c"}
_BETWEEN = {"binary", "relation", "arrow"}


def linear(node: f.Formula | None) -> str:
    """The formula as text."""
    return " ".join(_written(node).split())


def _written(node: f.Formula | None) -> str:
    match node:
        case None | f.Phantom():
            return ""
        case f.Row(items=items):
            return "".join(map(_written, items))
        case f.Identifier(text=text) | f.Number(text=text) | f.Words(text=text) | f.Sized(text=text):
            return text
        case f.Function(text=text):
            return f"{text} "
        case f.Operator(text=text, form=form):
            return f" {text} " if form in _BETWEEN else f"{text} " if form == "punctuation" else text
        case f.BigOperator(text=text):
            return text
        case f.Space(width=width):
            return " " if width > 0 else ""
        case f.Scripts(base=base, sub=sub, sup=sup):
            below = f"_{_held(sub)}" if sub is not None else ""
            above = _written(sup) if _is_prime(sup) else f"^{_held(sup)}" if sup is not None else ""
            after = " " if isinstance(base, f.BigOperator | f.Function) else ""
            return f"{_written(base).rstrip()}{below}{above}{after}"
        case f.Fraction(numerator=top, denominator=below):
            return f"{_held(top)}/{_held(below)}"
        case f.Root(radicand=radicand, degree=degree):
            sign = {"": "√", "3": "∛", "4": "∜"}.get(linear(degree))
            return f"{sign}{_held(radicand)}" if sign else f"√({linear(degree)}&{linear(radicand)})"
        case f.Fenced(open=opening, body=body, close=close):
            return f"{opening}{linear(body)}{close}"
        case f.Accent(base=base, mark=mark):
            inner = _written(base)
            return f"{inner}{_ACCENTS[mark]}" if mark in _ACCENTS and len(inner) == 1 else inner
        case f.Brace(base=base, note=note):
            return _written(base) + (f" ({linear(note)})" if note is not None else "")
        case f.Stacked(base=base, over=over, under=under):
            further = ", ".join(filter(None, (linear(over), linear(under))))
            return f" {linear(base)} ({further}) " if further else _written(base)
        case f.Grid(rows=rows, open=opening, close=close):
            inner = "; ".join(", ".join(filter(None, map(linear, row))) for row in rows)
            return f"{opening or '['}{inner}{close or ']'}" if node.kind in {"matrix", "array", "cases"} else inner
        case f.Tagged(body=body, tag=tag):
            return f"{_written(body)} ({tag})"
        case f.Boxed(body=body) | f.Cancelled(body=body) | f.Coloured(body=body) | f.Styled(body=body):
            return _written(body)
    raise TypeError(f"{type(node).__name__} is no formula that is known here")


def _held(node: f.Formula | None) -> str:
    """A formula in brackets, unless it is short."""
    made = linear(node)
    return made if len(made) == 1 or made.isalnum() or (made[:1] + made[-1:]) in {"()", "[]"} else f"({made})"


def _is_prime(node: f.Formula | None) -> bool:
    return node is not None and set(linear(node)) <= set("′″‴*†∗") and bool(linear(node))
