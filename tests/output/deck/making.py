"""Made-up decks from a seed: blocks of every kind within each other, each word of them known and there once."""

from __future__ import annotations

import textwrap
from collections.abc import Callable
from random import Random

MARKS = ("{}", "{}", "**{}**", "*{}*", "`{}`", "[{}](https://marlow.example)", "~~{}~~", "^[{}]")


class DeckMaker:
    """Writes one page; its words are those of `titles`, others that are `seen`, and those `said` by the speaker."""

    def __init__(self, seed: int) -> None:
        self.random = Random(seed)
        self.seen: list[str] = []
        self.titles: list[str] = []
        self.said: list[str] = []
        self._into = self.seen
        self._count = 0

    # --- words ------------------------------------------------------------------------------------

    def word(self) -> str:
        """A word that no other is the beginning of."""
        self._count += 1
        made = f"w{self._count:03}x"
        self._into.append(made)
        return made

    def words(self, most: int = 6) -> str:
        """Some running text."""
        marks = [self.random.choice(MARKS) for _ in range(self.random.randint(1, most))]
        return " ".join(mark.format(self.word()) for mark in marks)

    # --- blocks -----------------------------------------------------------------------------------

    def blocks(self, depth: int, most: int = 3) -> str:
        """Blocks below each other; fewer kinds the deeper they stand."""
        return "\n\n".join(self.block(depth) for _ in range(self.random.randint(1, most)))

    def block(self, depth: int) -> str:
        """A block of any kind."""
        flat: list[Callable[[], str]] = [self.words, self.words, self.table, self.code, self.formula, self.rule]
        deep: list[Callable[[int], str]] = [
            self.items,
            self.items,
            self.quote,
            self.box,
            self.columns,
            self.step,
            self.speaker,
        ]
        if depth < 3 and self.random.random() < 0.6:
            return self.random.choice(deep)(depth + 1)
        return self.random.choice(flat)()

    def table(self) -> str:
        """A table of words, with and without a caption."""
        caption = f"\n\nCaption: {self.word()}" if self.random.random() < 0.5 else ""
        return (
            f"| {self.word()} | {self.words(2)} |\n|---|--:|\n| {self.words(2)} | 1.5 |\n| | {self.word()} |{caption}"
        )

    def code(self) -> str:
        """Code that is shown, some of it picked out in turns."""
        picked = self.random.choice(("", ' pick-out="1 then 2 then all"', ' pick-out="2"', " line-numbers=yes"))
        return f"```python{picked}\n{self.word()} = 1\nprint({self.word()})\n```"

    def formula(self) -> str:
        """A formula in a line of its own or among words."""
        return "$$ \\frac{a}{b} $$" if self.random.random() < 0.5 else f"{self.word()} $x^2$ {self.word()}"

    def rule(self) -> str:
        """A line across."""
        return "* * *"

    def items(self, depth: int) -> str:
        """A list whose items hold one or several blocks."""
        marks = self.random.choice((("- ", "- ", "- "), ("1. ", "2. ", "3. "), ("3. ", "4. ", "5. ")))
        made = []
        for mark in marks[: self.random.randint(1, 3)]:
            inner = self.words() + ("\n\n" + self.blocks(depth, 2) if self.random.random() < 0.3 else "")
            made.append(mark + textwrap.indent(inner, " " * len(mark)).lstrip())
        stepped = self.random.choice(("", "\n\n{steps=yes}", "\n\n{steps=no}"))
        return "\n".join(made) + stepped

    def quote(self, depth: int) -> str:
        """A quotation."""
        return "\n".join(f"> {line}".rstrip() for line in self.blocks(depth, 2).split("\n"))

    def box(self, depth: int) -> str:
        """A box with or without words above it."""
        kind = self.random.choice(("note", "tip", "caution", "warning"))
        title = f" {self.word()}" if self.random.random() < 0.5 else ""
        return self.fenced(f"{kind}{title}", self.blocks(depth, 2), depth)

    def columns(self, depth: int) -> str:
        """Blocks beside each other."""
        inner = [self.block(2) if self.random.random() < 0.5 else self.fenced("column", self.blocks(3, 2), depth + 1)
                 for _ in range(self.random.randint(2, 3))]  # fmt: skip
        return self.fenced("side-by-side", "\n\n".join(inner), depth)

    def step(self, depth: int) -> str:
        """Blocks that come together."""
        return self.fenced("step", self.blocks(depth, 2), depth)

    def speaker(self, depth: int) -> str:
        """Words for the speaker alone."""
        outer, self._into = self._into, self.said
        inner = self.blocks(2, 2)
        self._into = outer
        return self.fenced("speaker", inner, depth)

    def fenced(self, kind: str, inner: str, depth: int) -> str:
        """A block with an inside; the outer ones have longer fences."""
        fence = ":" * (12 - 2 * depth)
        return f"{fence} {kind}\n{inner}\n{fence}"

    # --- pages ------------------------------------------------------------------------------------

    def heading(self) -> str:
        """What begins a slide, or stands in one."""
        looks = (
            "",
            "",
            "",
            " {vertical=centre}",
            " {background=#203040}",
            " {title=no}",
            " {fit=shrink}",
            " {steps=yes}",
        )
        self._into = self.titles
        word, self._into = self.word(), self.seen
        return f"{'#' * self.random.choice((1, 2, 2, 2, 3))} {word}{self.random.choice(looks)}"

    def page(self) -> str:
        """All of it."""
        steps, speaker = self.random.choice(("yes", "no")), self.random.choice(("yes", "yes", "no"))
        self._into = self.titles
        title, self._into = self.word(), self.seen
        parts = [f"---\ntitle: {title}\npress: {{slides: {{steps: {steps}, speaker: {speaker}}}}}\n---"]
        for _ in range(self.random.randint(1, 6)):
            parts.append(self.heading())
            parts += [self.block(0) for _ in range(self.random.randint(0, 4))]
            if self.random.random() < 0.3:
                parts += ["{new slide}", self.block(0)]
        if speaker == "no":
            self.said.clear()
        return "\n\n".join(parts) + "\n"
