"""A formula in words: the alternative text for those who cannot see it."""

from __future__ import annotations

from wornpage.tree import formula as f

_SIGNS = {
    "+": "plus", "−": "minus", "=": "equals", "<": "less than", ">": "greater than", "≤": "at most", "≥": "at least",
    "≠": "is not", "≈": "approximately", "∼": "distributed as", "×": "times", "⋅": "times", "÷": "divided by",
    "±": "plus or minus", "∓": "minus or plus", "∈": "in", "∉": "not in", "→": "to", "⇒": "implies", "⟹": "implies",
    "⟺": "if and only if", "∣": "given", "|": "bar", "‖": "double bar", "∪": "union", "∩": "intersection",
    "⊂": "subset of", "⊆": "subset of or equal to", "∝": "proportional to", "≡": "equivalent to", "∖": "without",
    "⟂": "independent of", "/": "over", "∗": "star", "∘": "after", "!": "factorial", "⟨": "open angle", "⟩": "close angle",
    "⌊": "floor of", "⌋": "end floor", "⌈": "ceiling of", "⌉": "end ceiling", "↦": "maps to", "∧": "and", "∨": "or",
    "≫": "much greater than", "≪": "much less than", "⊗": "tensor", "⊕": "direct sum", "≔": "is defined as",
}  # fmt: skip
_LETTERS = {
    "α": "alpha", "β": "beta", "γ": "gamma", "δ": "delta", "ϵ": "epsilon", "ε": "epsilon", "ζ": "zeta", "η": "eta",
    "θ": "theta", "ϑ": "theta", "ι": "iota", "κ": "kappa", "λ": "lambda", "μ": "mu", "ν": "nu", "ξ": "xi", "π": "pi",
    "ρ": "rho", "σ": "sigma", "ς": "sigma", "τ": "tau", "υ": "upsilon", "ϕ": "phi", "φ": "phi", "χ": "chi",
    "ψ": "psi", "ω": "omega", "Γ": "capital gamma", "Δ": "capital delta", "Θ": "capital theta",
    "Λ": "capital lambda", "Ξ": "capital xi", "Π": "capital pi", "Σ": "capital sigma", "Φ": "capital phi",
    "Ψ": "capital psi", "Ω": "capital omega", "∞": "infinity", "∂": "partial", "∇": "nabla", "∅": "the empty set",
    "∀": "for all", "∃": "there exists", "…": "and so on", "⋯": "and so on", "′": "prime", "ℓ": "l",
}  # fmt: skip
_STYLES = {"bold": "bold ", "bold-italic": "bold ", "double-struck": "", "script": "script ", "fraktur": "fraktur "}


def spoken(formula: f.Formula) -> str:
    """`formula` read aloud in English words."""
    return " ".join(_say(formula).split()).rstrip(", ") or "empty formula"


def _say(node: f.Formula | None) -> str:
    match node:
        case None:
            return ""
        case f.Row(items=items):
            return " ".join(_say(item) for item in items)
        case f.Identifier(text=text, style=style):
            return _STYLES.get(style, "") + _LETTERS.get(text, text)
        case f.Number(text=text) | f.Words(text=text):
            return text
        case f.Function(text=text):
            return text
        case f.Operator(text=text, name=name):
            return name or _SIGNS.get(text, text)
        case f.BigOperator(name=name):
            return name
        case f.Space():
            return " "
        case f.Scripts():
            return _say_scripts(node)
        case f.Fraction(numerator=top, denominator=below, line=line):
            return (
                f"{_say(top)} {'over' if line else 'choose'} {_say(below)},"
                if line
                else f"{_say(top)} choose {_say(below)}"
            )
        case f.Root(radicand=radicand, degree=degree):
            return (
                f"the {_say(degree)} root of {_say(radicand)}," if degree else f"the square root of {_say(radicand)},"
            )
        case f.Fenced(open=opening, body=body, close=closing):
            return f"{_SIGNS.get(opening, opening)} {_say(body)} {_SIGNS.get(closing, closing)}"
        case f.Sized(text=text):
            return _SIGNS.get(text, text)
        case f.Accent(base=base, name=name):
            return f"{_say(base)} {name}"
        case f.Brace(base=base, note=note):
            return f"{_say(base)}, braced as {_say(note)}," if note else _say(base)
        case f.Stacked(base=base, over=over, under=under):
            return " ".join(
                part
                for part in (_say(base), over and f"with {_say(over)} above", under and f"with {_say(under)} below")
                if part
            )
        case f.Phantom():
            return ""
        case (
            f.Boxed(body=body)
            | f.Cancelled(body=body)
            | f.Coloured(body=body)
            | f.Styled(body=body)
            | f.Tagged(body=body)
        ):
            return _say(body)
        case f.Grid():
            return _say_grid(node)
    raise TypeError(f"no words for {type(node).__name__}")


def _say_scripts(node: f.Scripts) -> str:
    base = _say(node.base)
    if isinstance(node.base, f.BigOperator) or (isinstance(node.base, f.Function) and node.base.limits):
        start = (
            f" over {_say(node.sub)}" if node.sub and not node.sup else f" from {_say(node.sub)}" if node.sub else ""
        )
        return f"{base}{start}{f' to {_say(node.sup)}' if node.sup else ''} of"
    said = base
    if node.sub is not None:
        said += f" sub {_say(node.sub)}"
    if node.sup is not None:
        said += _power(node.sup)
    return said


def _power(sup: f.Formula) -> str:
    if isinstance(sup, f.Operator) and "′" in sup.text:
        return f" {sup.name}"
    text = _say(sup)
    return {"2": " squared", "3": " cubed", "T": " transposed", "⊤": " transposed"}.get(text, f" to the power {text}")


def _say_grid(node: f.Grid) -> str:
    rows = ["; ".join(", ".join(_say(cell) for cell in row) for row in node.rows)]
    names = {"matrix": "the matrix with rows", "array": "the table with rows", "cases": "the cases"}
    return f"{names.get(node.kind, '')} {rows[0]};"
