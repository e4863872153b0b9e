"""Pages made up of all that running text can hold: what edits are tried on."""

from __future__ import annotations

import random

_NAMES = (
    "ash birch cedar elm fir hazel ivy larch maple oak pine rowan thorn willow yew damp shelf ledger glue press".split()
)
SIGNS = (
    "a_b_c", "5 * 3", "R&D", "2 < 3", "50 %", "*star*", "`tick`", "$5 and $6", "[brackets]", "a | b", "#1", "\\back",
    "é ü", "日本語", "שלום", "“quoted”", "--", "…", "1. x", "- y", "{= z}", "{see q}", "<b>", "&amp;", "~tilde~", "::: x",
)  # fmt: skip
"""Words that mean something in a page."""


class Writer:
    """Writes pages; the same number, the same pages."""

    def __init__(self, seed: int) -> None:
        self.by = random.Random(seed)
        self.notes = 0

    def page(self) -> str:
        """A page of some blocks, mostly with a title, sometimes with an abstract."""
        body = "\n\n".join(self.block() for _ in range(self.by.randint(3, 9))) + "\n"
        if self.by.random() < 0.4:
            return body
        abstract = f"abstract: |\n  {_within(self.line(), '  ')}\n" if self.by.random() < 0.5 else ""
        return f"---\ntitle: {self.words()}\n{abstract}---\n\n{body}"

    def words(self, count: int = 0) -> str:
        """Some words."""
        return " ".join(self.by.choice(_NAMES) for _ in range(count or self.by.randint(2, 6)))

    def line(self) -> str:
        """Running text, in one line or several."""
        made = self.inline()
        for _ in range(self.by.randint(1, 4)):
            gap = self.by.choices([" ", "\n", "  \n", "\\\n"], [80, 14, 3, 3])[0]
            made += gap + self.inline()
        return made + self.by.choice([".", ".", "?", ":", ""])

    def inline(self) -> str:
        """Words, set off in some way or not."""
        words, word = self.words(), self.words(1)
        ways = [
            *[words] * 8, f"**{words}**", f"*{words}*", f"_{words}_", f"__{words}__", f"***{words}***", f"~~{words}~~",
            f"`{word}.x`", f"[{words}](https://a.example/{word})", f"**{word} *{words}* {word}**",
            f"[{word} *{words}*](https://b.example)", f"{word}\\* {word}\\_", "$x_1^2$", "{= 6 * 7}",
            f"{word}&nbsp;x &amp; y", f"({words}), {word}!",
        ]  # fmt: skip
        return self.by.choice(ways)

    def block(self, depth: int = 0) -> str:
        """A block; quotations and boxes hold others."""
        inner = [
            self.line,
            self.line,
            self.line,
            self.heading,
            self.underlined,
            self.items,
            self.table,
            self.note,
            self.meaning,
        ]
        outer = [self.quotation, self.box] if depth < 2 else []
        chosen = self.by.choice([*inner, *outer])
        return chosen(depth) if chosen in outer else chosen()  # type: ignore[operator, call-arg]

    def heading(self) -> str:
        return "#" * self.by.randint(1, 3) + f" {self.words()}"

    def underlined(self) -> str:
        return f"{self.words()}\n" + self.by.choice("=-") * 8

    def items(self) -> str:
        sign = self.by.choice(["- ", "* ", "1. ", "- [ ] "])
        gap = self.by.choice(["\n", "\n", "\n\n"])
        lines = [sign + _within(self.line(), " " * min(len(sign), 3)) for _ in range(self.by.randint(2, 4))]
        if sign[0] in "-*" and self.by.random() < 0.4:
            lines[0] += f"\n  - {_within(self.line(), '    ')}"
        return gap.join(lines)

    def table(self) -> str:
        width = self.by.randint(2, 3)
        rows = [
            [self.by.choice([self.words(2), f"**{self.words(1)}** x", "a \\| b", "12.5"]) for _ in range(width)]
            for _ in range(3)
        ]
        lines = ["| " + " | ".join(row) + " |" for row in rows]
        return "\n".join([lines[0], "|" + "---|" * width, *lines[1:]])

    def note(self) -> str:
        self.notes += 1
        further = f"\n\n    {self.words()}" if self.by.random() < 0.5 else ""
        return f"{self.line()}[^n{self.notes}] {self.words()}.\n\n[^n{self.notes}]: {_within(self.line(), '    ')}{further}"

    def meaning(self) -> str:
        return f"{self.words(1)}\n: {_within(self.line(), '  ')}"

    def quotation(self, depth: int) -> str:
        return "> " + _within(self.block(depth + 1), "> ")

    def box(self, depth: int) -> str:
        return f"::: remark {self.words()}\n{self.block(depth + 1)}\n\n{self.block(depth + 1)}\n:::"


def _within(text: str, lead: str) -> str:
    return text.replace("\n", "\n" + lead)
