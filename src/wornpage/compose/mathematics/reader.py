"""Read LaTeX notation into the mathematics tree. Every fault has its place; nothing is guessed."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

from msgspec import Struct

from wornpage.compose.mathematics import commands as c
from wornpage.compose.mathematics.chemistry import notation_of
from wornpage.compose.mathematics.macros import MacroFault, written_out
from wornpage.tree import formula as f
from wornpage.tree.problem import near_miss, quoted

MAX_DEPTH = 100
_TOKEN = re.compile(r"%[^\n]*\n|\\[A-Za-z]+\*?|\\.|\s+|.", re.DOTALL)
_STAR = ("operatorname*", "align*", "gather*")
_PLAIN = {
    "+": "binary", "-": "binary", "*": "binary", "=": "relation", "<": "relation", ">": "relation", ":": "relation",
    ",": "punctuation", ";": "punctuation", "!": "ordinary", "?": "ordinary", "/": "ordinary", "|": "ordinary",
    "(": "open", "[": "open", ")": "close", "]": "close", ".": "ordinary", "@": "ordinary", '"': "ordinary",
    "`": "ordinary",
}  # fmt: skip
_SHOWN = {"-": "−", "*": "∗"}


class MathFault(Exception):
    """Mathematics that cannot be read: what is wrong, a hint, and the offset in the formula, from 0."""

    def __init__(self, what: str, offset: int, hint: str = "") -> None:
        super().__init__(what)
        self.what, self.offset, self.hint = what, offset, hint


class _Token(Struct, frozen=True):
    text: str
    offset: int


def read_formula(latex: str, macros: Mapping[str, str] | None = None) -> f.Formula:
    """The formula that `latex` writes, with `macros` for commands of the author's own. Raises `MathFault`."""
    try:
        text, places = written_out(latex, macros or {})
    except MacroFault as fault:
        raise MathFault(fault.what, fault.offset, fault.hint) from None
    try:
        return _read(text)
    except RecursionError:
        raise MathFault("this formula is nested too deeply.", 0) from None
    except MathFault as fault:
        raise MathFault(fault.what, places[min(fault.offset, len(text))], fault.hint) from None


def _read(latex: str) -> f.Formula:
    reader = _Reader(latex)
    items = reader.row(lambda token: False)
    if reader.peek().text:
        raise MathFault(f"{quoted(reader.peek().text)} closes nothing.", reader.peek().offset)
    return items


class _Reader:
    def __init__(self, latex: str) -> None:
        self.latex = latex
        self.tokens = [
            _Token(match[0], match.start())
            for match in _TOKEN.finditer(latex)
            if not match[0].isspace() and not (match[0][0] == "%" and match[0][-1] == "\n")
        ]
        self.at = 0
        self.depth = 0
        self.alignable = 0
        self.tag = ""

    # --- tokens -------------------------------------------------------------------------------

    def peek(self) -> _Token:
        """The next token; an empty one at the end."""
        return self.tokens[self.at] if self.at < len(self.tokens) else _Token("", len(self.latex))

    def take(self) -> _Token:
        token = self.peek()
        self.at += 1
        return token

    def expect(self, text: str, opened: _Token) -> None:
        if self.peek().text != text:
            raise MathFault(
                f"{quoted(opened.text)} is opened here and never closed.",
                opened.offset,
                f"Close it with {quoted(text)}.",
            )
        self.at += 1

    # --- rows ---------------------------------------------------------------------------------

    def row(self, ends: Callable[[_Token], bool]) -> f.Formula:
        """Everything up to the token at which `ends` says so, which is left where it is."""
        self.depth += 1
        if self.depth > MAX_DEPTH:
            raise MathFault("this formula is nested too deeply.", self.peek().offset)
        items: list[f.Formula] = []
        while self.peek().text and not ends(self.peek()):
            token = self.peek()
            if token.text == "}":
                raise MathFault("this brace closes nothing.", token.offset, "Write `\\}` for a brace in the formula.")
            if token.text in {"&", "\\\\"} and not self.alignable:
                what = f"{quoted(token.text)} stands outside an alignment."
                raise MathFault(what, token.offset, "Put the lines into \\begin{aligned} … \\end{aligned}.")
            if token.text in {"\\right", "\\end"}:
                raise MathFault(f"{quoted(token.text)} closes nothing.", token.offset)
            style = _STYLE_SWITCHES.get(token.text)
            if style:
                self.take()
                items.append(f.Styled(self.row(ends), style))
                break
            if token.text == "\\color":
                self.take()
                colour = self.word()
                items.append(f.Coloured(self.row(ends), colour))
                break
            item = self.scripted()
            if item is not None:
                items.append(item)
        self.depth -= 1
        return _row(items)

    def scripted(self) -> f.Formula | None:
        """One piece with the scripts that follow it."""
        start = self.peek()
        base: f.Formula | None = f.Row(()) if start.text in {"^", "_", "'"} else self.piece()
        if base is None:
            return None
        limits: bool | None = None
        sub: f.Formula | None = None
        sup: f.Formula | None = None
        primes = 0
        while True:
            token = self.peek()
            if token.text in {"\\limits", "\\nolimits"}:
                limits = self.take().text == "\\limits"
            elif token.text == "'":
                self.take()
                primes += 1
            elif token.text == "_":
                if sub is not None:
                    raise MathFault(
                        "a second subscript on the same letter.", token.offset, "Put braces around the first."
                    )
                self.take()
                sub = self.argument(token)
            elif token.text == "^":
                if sup is not None:
                    raise MathFault(
                        "a second superscript on the same letter.", token.offset, "Put braces around the first."
                    )
                self.take()
                sup = self.argument(token)
            else:
                break
        if primes:
            prime = f.Operator("′" * primes, "ordinary", "prime" if primes == 1 else f"{primes} primes")
            sup = prime if sup is None else _row([prime, sup])
        if sub is None and sup is None:
            return base
        if isinstance(base, f.Brace) and base.note is None:
            return f.Brace(base.base, sup if base.over else sub, base.over)
        return f.Scripts(base, sub, sup, limits)

    # --- pieces -------------------------------------------------------------------------------

    def piece(self) -> f.Formula | None:
        token = self.take()
        text = token.text
        if text == "{":
            body = self.row(lambda t: t.text == "}")
            self.expect("}", token)
            return body
        if text.startswith("\\"):
            return self.command(token)
        if text.isdigit():
            return self.number(text)
        if text in _PLAIN:
            return f.Operator(_SHOWN.get(text, text), _PLAIN[text])
        if text == "~":
            return f.Space(0.25)
        if text in {"&", "#", "$", "%"}:
            raise MathFault(f"{quoted(text)} has no meaning here.", token.offset, f"Write `\\{text}` for the sign.")
        if text.isalpha():
            return f.Identifier(text)
        return f.Operator(text, "relation" if text in "≤≥≠≈∈→" else "ordinary")

    def number(self, first: str) -> f.Formula:
        """A run of digits, with a decimal point or comma inside."""
        text = first
        while True:
            following = self.peek().text
            after = self.tokens[self.at + 1].text if self.at + 1 < len(self.tokens) else ""
            adjacent = self.at > 0 and self.peek().offset == self.tokens[self.at - 1].offset + 1
            if (following.isdigit() and adjacent) or (following == "." and after.isdigit() and adjacent):
                text += self.take().text
            else:
                return f.Number(text)

    def argument(self, owner: _Token) -> f.Formula:
        """What stands in braces next, or the next single piece."""
        token = self.peek()
        if token.text in {"", "}", "&", "\\\\", "^", "_"}:
            raise MathFault(f"{quoted(owner.text)} lacks what belongs to it.", owner.offset, "Put it in braces.")
        if token.text.isdigit():
            self.take()
            return f.Number(token.text)
        found = self.piece()
        return f.Row(()) if found is None else found

    def optional(self) -> f.Formula | None:
        """What stands in square brackets next; None if nothing does."""
        if self.peek().text != "[":
            return None
        opened = self.take()
        body = self.row(lambda t: t.text == "]")
        self.expect("]", opened)
        return body

    def raw(self, owner: _Token) -> str:
        """The text in braces next, as written."""
        opened = self.peek()
        if opened.text != "{":
            raise MathFault(f"{quoted(owner.text)} wants its words in braces.", owner.offset)
        depth, start = 0, opened.offset + 1
        while self.peek().text:
            token = self.take()
            depth += (token.text == "{") - (token.text == "}")
            if depth == 0:
                return self.latex[start : token.offset]
        raise MathFault("'{' is opened here and never closed.", opened.offset, "Close it with '}'.")

    def word(self) -> str:
        """A word in braces."""
        owner = self.tokens[self.at - 1]
        return self.raw(owner).strip()

    def delimiter(self, owner: _Token) -> str:
        token = self.take()
        if token.text not in c.DELIMITERS:
            what = (
                f"{quoted(token.text)} is no delimiter." if token.text else f"{quoted(owner.text)} wants a delimiter."
            )
            raise MathFault(what, token.offset, "Use ( ) [ ] | \\{ \\} \\langle \\rangle or . for none.")
        return c.DELIMITERS[token.text]

    # --- commands -----------------------------------------------------------------------------

    def command(self, token: _Token) -> f.Formula | None:
        name = token.text[1:]
        if name.endswith("*") and name not in _STAR:
            name = name[:-1]
            self.at -= 1
            self.tokens[self.at] = _Token("*", token.offset + len(name) + 1)
            self.tokens.insert(self.at, _Token("\\" + name, token.offset))
            self.at += 1
        if name in c.SIGNS:
            return c.SIGNS[name]
        if name in c.ACCENTS:
            return c.accent(name, self.argument(token))
        if name in c.STYLES:
            return _restyle(self.argument(token), c.STYLES[name])
        if name in c.TEXTS:
            return self.words(token, c.TEXTS[name])
        if name in c.SIZES:
            size, form = c.SIZES[name]
            return f.Sized(self.delimiter(token), size, form)
        method: Callable[[_Token], f.Formula | None] | None = getattr(self, f"_{name.rstrip('*')}", None)
        if method is None or name not in c.ARGUMENT_COMMANDS:
            hint = near_miss(token.text, ["\\" + known for known in c.ALL_COMMANDS])
            raise MathFault(f"mathematics has no command {quoted(token.text)}.", token.offset, hint)
        return method(token)

    def words(self, token: _Token, style: str) -> f.Formula:
        """Running text, in which `$…$` is mathematics again."""
        offset = self.peek().offset + 1
        parts: list[f.Formula] = []
        for index, part in enumerate(re.split(r"(?<!\\)\$", self.raw(token))):
            if index % 2:
                try:
                    parts.append(_read(part))
                except MathFault as fault:
                    raise MathFault(fault.what, offset + fault.offset, fault.hint) from None
            elif part:
                parts.append(f.Words(re.sub(r"\\([%$#&_{} ])", r"\1", part).replace("~", "\u00a0"), style))
            offset += len(part) + 1
        return _row(parts)

    def _frac(self, token: _Token) -> f.Formula:
        return f.Fraction(self.argument(token), self.argument(token))

    def _dfrac(self, token: _Token) -> f.Formula:
        return f.Fraction(self.argument(token), self.argument(token), style="display")

    _cfrac = _dfrac

    def _tfrac(self, token: _Token) -> f.Formula:
        return f.Fraction(self.argument(token), self.argument(token), style="text")

    def _binom(self, token: _Token) -> f.Formula:
        style = {"\\dbinom": "display", "\\tbinom": "text"}.get(token.text, "")
        return f.Fenced("(", f.Fraction(self.argument(token), self.argument(token), False, style), ")")

    _dbinom = _tbinom = _binom

    def _sqrt(self, token: _Token) -> f.Formula:
        degree = self.optional()
        return f.Root(self.argument(token), degree)

    def _overbrace(self, token: _Token) -> f.Formula:
        return f.Brace(self.argument(token), None, token.text == "\\overbrace")

    _underbrace = _overbrace

    def _overset(self, token: _Token) -> f.Formula:
        note = self.argument(token)
        return f.Stacked(self.argument(token), note, None)

    _stackrel = _overset

    def _underset(self, token: _Token) -> f.Formula:
        note = self.argument(token)
        return f.Stacked(self.argument(token), None, note)

    def _ce(self, token: _Token) -> f.Formula:
        notation = notation_of(self.raw(token))
        try:
            return _read(notation)
        except MathFault as fault:
            raise MathFault(fault.what, token.offset, fault.hint) from None

    def _xrightarrow(self, token: _Token) -> f.Formula:
        under = self.optional()
        sign = "→" if token.text == "\\xrightarrow" else "←"
        return f.Stacked(f.Operator(sign, "arrow"), self.argument(token), under)

    _xleftarrow = _xrightarrow

    def _operatorname(self, token: _Token) -> f.Formula:
        name = self.raw(token).replace("\\,", "\u2009").replace("\\ ", " ").replace("~", " ").strip()
        if not re.fullmatch(r"[\w\s\u2009.-]+", name):
            raise MathFault("an operator's name is made of letters.", token.offset)
        return f.Function(name, limits=token.text.endswith("*"))

    def _phantom(self, token: _Token) -> f.Formula:
        return f.Phantom(self.argument(token))

    _hphantom = _vphantom = _phantom

    def _mathstrut(self, token: _Token) -> f.Formula:
        return f.Row(())

    def _smash(self, token: _Token) -> f.Formula:
        return self.argument(token)

    def _boxed(self, token: _Token) -> f.Formula:
        return f.Boxed(self.argument(token))

    def _cancel(self, token: _Token) -> f.Formula:
        return f.Cancelled(self.argument(token))

    def _textcolor(self, token: _Token) -> f.Formula:
        colour = self.raw(token).strip()
        if not re.fullmatch(r"[a-z]+|#[0-9a-fA-F]{6}", colour):
            raise MathFault(f"{quoted(colour)} is no colour.", token.offset, "Use a name such as `red`, or `#rrggbb`.")
        return f.Coloured(self.argument(token), colour)

    def _tag(self, token: _Token) -> None:
        self.tag = self.raw(token).strip()

    def _notag(self, token: _Token) -> None:
        return None

    _nonumber = _notag

    def _hspace(self, token: _Token) -> f.Formula:
        match = re.fullmatch(r"\s*(-?[\d.]+)\s*(em|ex|mu)\s*", self.raw(token))
        if not match:
            raise MathFault("a space is given in em, ex or mu.", token.offset, "Write `\\hspace{1em}`.")
        return f.Space(float(match[1]) * {"em": 1, "ex": 0.5, "mu": 1 / 18}[match[2]])

    def _mathop(self, token: _Token) -> f.Formula:
        body = self.argument(token)
        if isinstance(body, f.Identifier):
            return f.Function(body.text, limits=True)
        return f.Function(_letters(body), limits=True) if _letters(body) else body

    def _mathrel(self, token: _Token) -> f.Formula:
        body = self.argument(token)
        form = {"\\mathrel": "relation", "\\mathbin": "binary", "\\mathopen": "open", "\\mathclose": "close",
                "\\mathpunct": "punctuation"}.get(token.text, "ordinary")  # fmt: skip
        return f.Operator(body.text, form) if isinstance(body, f.Operator | f.Identifier) else body

    _mathbin = _mathord = _mathopen = _mathclose = _mathpunct = _mathrel

    def _pmod(self, token: _Token) -> f.Formula:
        body = self.argument(token)
        parts = [f.Space(0.5), f.Operator("(", "open")]
        if token.text == "\\pmod":
            parts += [f.Function("mod"), f.Space(0.3)]
        return f.Row((*parts, body, f.Operator(")", "close")))

    _pod = _pmod

    def _bmod(self, token: _Token) -> f.Formula:
        return f.Row((f.Space(0.25), f.Function("mod"), f.Space(0.25)))

    _mod = _bmod

    def _not(self, token: _Token) -> f.Formula:
        body = self.argument(token)
        if isinstance(body, f.Operator) and body.text in c.NEGATED:
            return f.Operator(c.NEGATED[body.text], "relation")
        raise MathFault("\\not wants a relation after it, such as = or \\in.", token.offset)

    def _left(self, token: _Token) -> f.Formula:
        opening = self.delimiter(token)
        aligned, self.alignable = self.alignable, 0
        parts: list[f.Formula] = []
        while True:
            parts.append(self.row(lambda t: t.text in {"\\right", "\\middle"}))
            if self.peek().text != "\\middle":
                break
            parts.append(f.Sized(self.delimiter(self.take()), 0, "relation"))
        self.alignable = aligned
        if self.peek().text != "\\right":
            raise MathFault(
                "'\\\\left' is opened here and never closed.".replace("\\\\", "\\"),
                token.offset,
                "Close it with \\right.",
            )
        return f.Fenced(opening, _row(parts), self.delimiter(self.take()))

    def _middle(self, token: _Token) -> f.Formula:
        raise MathFault("\\middle stands between \\left and \\right.", token.offset)

    def _limits(self, token: _Token) -> f.Formula:
        raise MathFault(f"{token.text} belongs right after a sum, an integral or the like.", token.offset)

    _nolimits = _limits

    def _substack(self, token: _Token) -> f.Formula:
        opened = self.take()
        if opened.text != "{":
            raise MathFault("\\substack wants its lines in braces.", token.offset)
        rows, _, _ = self.grid(lambda t: t.text == "}")
        self.expect("}", opened)
        return f.Grid(rows, "substack")

    # --- environments -------------------------------------------------------------------------

    def _begin(self, token: _Token) -> f.Formula:
        name = self.raw(token).strip()
        if name not in c.ENVIRONMENTS:
            hint = near_miss(name, c.ENVIRONMENTS)
            raise MathFault(f"mathematics has no environment {quoted(name)}.", token.offset, hint)
        aligns, rules = self.column_rules(token) if name in {"array", "subarray"} else ((), ())
        if name in {"alignat", "alignat*", "alignedat"}:
            self.raw(token)
        rows, lines, tags = self.grid(lambda t: t.text == "\\end")
        if self.peek().text != "\\end":
            what = f"\\begin{{{name}}} is opened here and never closed."
            raise MathFault(what, token.offset, f"Close it with \\end{{{name}}}.")
        ended = self.take()
        closed = self.raw(ended).strip()
        if closed != name:
            what = f"\\end{{{closed}}} closes \\begin{{{name}}}."
            raise MathFault(what, ended.offset, f"Write \\end{{{name}}}.")
        return _environment(name, rows, aligns, rules, lines, tags)

    def column_rules(self, token: _Token) -> tuple[tuple[str, ...], tuple[int, ...]]:
        """The column letters of an array: alignments, and columns with a rule to their right."""
        aligns: list[str] = []
        rules: list[int] = []
        for letter in self.raw(token).replace(" ", ""):
            if letter == "|":
                rules.append(len(aligns) - 1)
            elif letter in "lcr":
                aligns.append({"l": "left", "c": "centre", "r": "right"}[letter])
            else:
                raise MathFault(
                    f"{quoted(letter)} is no column of an array.", token.offset, "Columns are l, c, r and |."
                )
        return tuple(aligns), tuple(rules)

    def grid(
        self, ends: Callable[[_Token], bool]
    ) -> tuple[tuple[tuple[f.Formula, ...], ...], tuple[int, ...], tuple[str, ...]]:
        """Rows of cells up to `ends`, the rows with a line below, and the rows' tags."""
        rows: list[tuple[f.Formula, ...]] = []
        lines: list[int] = []
        tags: list[str] = []
        cells: list[f.Formula] = []
        outer, self.tag = self.tag, ""
        self.alignable += 1
        while True:
            while self.peek().text == "\\hline":
                self.take()
                lines.append(len(rows) - 1)
            cells.append(self.row(lambda t: t.text in {"&", "\\\\"} or ends(t)))
            if self.peek().text == "&":
                self.take()
                continue
            if cells != [f.Row(())] or self.peek().text == "\\\\":
                rows.append(tuple(cells))
                tags.append(self.tag)
            cells, self.tag = [], ""
            if self.peek().text != "\\\\":
                break
            self.take()
            self.optional()
        self.alignable -= 1
        self.tag = outer
        return tuple(rows), tuple(lines), tuple(tags)


_STYLE_SWITCHES = {
    "\\displaystyle": "display",
    "\\textstyle": "text",
    "\\scriptstyle": "script",
    "\\scriptscriptstyle": "scriptscript",
}


def _row(items: list[f.Formula]) -> f.Formula:
    return items[0] if len(items) == 1 else f.Row(tuple(items))


def _letters(body: f.Formula) -> str:
    """The letters of a row that holds nothing else; empty otherwise."""
    items = body.items if isinstance(body, f.Row) else (body,)
    if all(isinstance(item, f.Identifier | f.Words) for item in items):
        return "".join(item.text for item in items if isinstance(item, f.Identifier | f.Words))
    return ""


def _restyle(body: f.Formula, style: str) -> f.Formula:
    """`body` with its letters in `style`; several upright letters become one name."""
    if isinstance(body, f.Row):
        if style in {"upright", "sans", "mono", "bold"} and len(body.items) > 1 and _letters(body):
            return f.Identifier(_letters(body), style)
        return f.Row(tuple(_restyle(item, style) for item in body.items))
    if isinstance(body, f.Identifier):
        return f.Identifier(body.text, style)
    if isinstance(body, f.Number):
        return f.Number(body.text, {"bold-italic": "bold", "italic": "upright"}.get(style, style))
    if isinstance(body, f.Scripts):
        sub = _restyle(body.sub, style) if body.sub else None
        sup = _restyle(body.sup, style) if body.sup else None
        return f.Scripts(_restyle(body.base, style), sub, sup, body.limits)
    if isinstance(body, f.Accent):
        return f.Accent(_restyle(body.base, style), body.mark, body.name, body.under, body.stretchy)
    return body


def _environment(
    name: str,
    rows: tuple[tuple[f.Formula, ...], ...],
    aligns: tuple[str, ...],
    rules: tuple[int, ...],
    lines: tuple[int, ...],
    tags: tuple[str, ...],
) -> f.Formula:
    if name in c.MATRICES:
        opening, closing = c.MATRICES[name]
        grid = f.Grid(rows, "matrix", opening, closing, lines_after=lines)
        return f.Styled(grid, "script") if name == "smallmatrix" else grid
    if name in {"cases", "dcases"}:
        return f.Grid(rows, "cases", "{", "")
    if name == "rcases":
        return f.Grid(rows, "cases", "", "}")
    if name in {"array", "subarray"}:
        return f.Grid(rows, "array", "", "", aligns, rules, lines)
    kind = "aligned" if name in c.ALIGNED else "gathered"
    if name.startswith("equation") and len(rows) == 1 and len(rows[0]) == 1:
        return f.Tagged(rows[0][0], tags[0]) if tags[0] else rows[0][0]
    if kind == "aligned":
        rows = tuple(tuple(_going_on(cell) if place % 2 else cell for place, cell in enumerate(row)) for row in rows)
    return f.Grid(rows, kind, tags=tags)


def _going_on(cell: f.Formula) -> f.Formula:
    """A cell right of an alignment goes on with what is left of it: a sign at its start stands between two things."""
    items = cell.items if isinstance(cell, f.Row) else (cell,)
    first = next((item for item in items if not isinstance(item, f.Space)), None)
    if isinstance(first, f.Operator) and first.form == "binary":
        return f.Row((f.Row(()), *items))
    return cell
