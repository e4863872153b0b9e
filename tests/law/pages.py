"""Made-up pages, and edits of them, from a seed."""

from __future__ import annotations

import json
from dataclasses import dataclass, field, replace
from random import Random
from typing import Any

from tests.law.pieces import ARRAYS, FRAMES, MARKS, PLAIN, WIDE, Kinds, Piece

LIB = "k = 1\nitems = []\n\ndef count():\n    return len(items) + k\n"
PART = "Part {n}: {= piece_n}\n\n````python run #inside on-error=show\nprint('inside', piece_n)\n````\n"


@dataclass(frozen=True)
class Made:
    """One chunk: a piece with names and numbers filled in."""

    label: str
    piece: Piece
    names: tuple[tuple[str, str], ...]
    n: int
    m: int
    island: int = 0
    options: str = ""
    comment: str = ""
    mark: str = ""

    @property
    def code(self) -> str:
        """As written in the page."""
        code = self.piece.code.replace("{n}", str(self.n)).replace("{m}", str(self.m))
        for letter, name in self.names:
            code = code.replace("{" + letter + "}", name)
        return self.comment + code.replace("{names}", repr(tuple(sorted(NAMES))))

    def name(self, letter: str) -> str:
        """What `letter` stands for."""
        return dict(self.names)[letter]


@dataclass(frozen=True)
class PageState:
    """A page with the files beside it, as it is at one step."""

    chunks: tuple[Made, ...]
    given: tuple[int, str] = (1, "one")
    files: tuple[tuple[str, str | None], ...] = ()
    insert: int = 0
    """Number given to an inserted part; 0 for none."""
    editions: tuple[str, ...] = ()
    """Names of editions that are pressed after the page, with values that go by their names."""
    package: int = 1
    """Which version of the made-up library is installed."""
    touched: frozenset[int] = field(default=frozenset())
    """Islands that the last edit touched."""

    @property
    def text(self) -> str:
        """The page as written."""
        given = json.dumps({"g": self.given[0], "h": self.given[1]})
        parts = [f"---\ntitle: t\ngiven: {given}\n---\n"]
        for place, made in enumerate(self.chunks):
            options = f" {made.options}" if made.options else ""
            parts.append(f"````python run #{made.label} on-error=show{options}\n{made.code}\n````\n")
            if made.mark:
                parts.append(f"Then {made.mark}.\n")
            if self.insert and place == len(self.chunks) // 2:
                parts.append(f"{{insert part.md piece_n={self.insert}}}\n")
        return "\n".join(parts)


ISLANDS = ("abcde", "pqrst")
NAMES = frozenset("".join(ISLANDS))
FLAVOURS: tuple[tuple[tuple[Piece, ...], ...], ...] = (
    (PLAIN,), (PLAIN,), (PLAIN, WIDE), (PLAIN, WIDE), (PLAIN, ARRAYS), (PLAIN, ARRAYS, FRAMES),
)  # fmt: skip


class Maker:
    """Makes a page and its edits; everything follows from the seed."""

    def __init__(self, seed: int) -> None:
        self.random = Random(seed)
        flavour = self.random.choice(FLAVOURS)
        self.pieces = [piece for family in flavour for piece in family]
        self.islands = 2 if len(flavour) == 1 and self.random.random() < 0.4 else 1
        self.count = 0
        self.safe = self.islands == 1

    def steps(self) -> list[PageState]:
        """The page and what becomes of it."""
        made: list[Made] = []
        for _ in range(self.random.randint(3, 11)):
            made.append(self.chunk(made))
        files: list[tuple[str, str | None]] = [("data.json", '{"k": 1}'), ("lib.py", LIB), ("part.md", PART)]
        with_insert = self.random.random() < 0.12
        editions = ("x", "two") if self.random.random() < 0.1 else ()
        steps = [PageState(tuple(made), files=tuple(files), insert=int(with_insert), editions=editions)]
        for _ in range(self.random.randint(1, 4)):
            steps.append(self.edited(steps))
        return steps

    # --- chunks -------------------------------------------------------------------------------

    def chunk(self, above: list[Made], island: int | None = None) -> Made:
        """A chunk that goes on with what those above have made."""
        which = self.random.randrange(self.islands) if island is None else island
        known = self.known([made for made in above if made.island == which])
        fitting = [piece for piece in self.pieces if set(piece.needs.values()) <= set(known.values())]
        weights = [1 + 3 * len(piece.needs) - 2 * (len(known) > 3) * (not piece.needs) for piece in fitting]
        piece = self.random.choices(fitting, [max(weight, 0.3) for weight in weights])[0]
        return self.filled(piece, known, which)

    def known(self, above: list[Made]) -> Kinds:
        """Kinds of the names that the chunks above have made, as far as is known."""
        found: Kinds = {}
        for made in above:
            found |= {made.name(letter): kind for letter, kind in made.piece.makes.items()}
        return found

    def filled(self, piece: Piece, known: Kinds, island: int) -> Made:
        """`piece` with names of the right kinds."""
        names: dict[str, str] = {}
        for letter, kind in piece.needs.items():
            names[letter] = self.random.choice([name for name, what in known.items() if what == kind])
        for letter in piece.makes:
            if letter not in names:
                names[letter] = self.random.choice(ISLANDS[island])
        self.count += 1
        n, m = self.random.randint(1, 3), self.random.randint(1, 3)
        mark = ""
        if self.random.random() < 0.15:
            every = [*known, *names.values()] or ["a"]
            mark = self.random.choice(MARKS).replace("{a}", self.random.choice(every))
        options = (
            self.random.choice(("keep=no", "seed=5", "rerun=always", "reads=*.json"))
            if self.random.random() < 0.06
            else ""
        )
        return Made(f"c{self.count}", piece, tuple(names.items()), n, m, island, options, "", mark)

    # --- edits --------------------------------------------------------------------------------

    def edited(self, steps: list[PageState]) -> PageState:
        """The last page with one or two edits; now and then an earlier one again."""
        now = replace(steps[-1], files=(), touched=frozenset())
        if len(steps) > 1 and self.random.random() < 0.12:
            earlier = self.random.choice(steps[:-1])
            return replace(now, chunks=earlier.chunks, given=earlier.given, touched=frozenset({0, 1}))
        for _ in range(self.random.choice((1, 1, 1, 2))):
            edit = self.random.choices(
                (self.number, self.other, self.insert, self.delete, self.swap, self.again, self.label, self.layout,
                 self.option, self.give, self.data, self.module, self.mark, self.part, self.upgrade, self.place),
                (5, 5, 4, 4, 3, 1, 1, 1, 1, 1, 2, 1, 1, 1, 1, 1),
            )[0]  # fmt: skip
            now = edit(now)
        return now

    def _at(self, page: PageState) -> int:
        return self.random.randrange(len(page.chunks))

    def _put(self, page: PageState, at: int, *made: Made, old: int = 1) -> PageState:
        gone = page.chunks[at : at + old]
        touched = page.touched | {one.island for one in (*made, *gone)}
        return replace(page, chunks=(*page.chunks[:at], *made, *page.chunks[at + old :]), touched=touched)

    def number(self, page: PageState) -> PageState:
        at = self._at(page)
        return self._put(page, at, replace(page.chunks[at], n=self.random.randint(1, 4), m=self.random.randint(1, 3)))

    def other(self, page: PageState) -> PageState:
        """Another way to make the same names, or to do something with them."""
        at = self._at(page)
        old = page.chunks[at]
        known = self.known([made for made in page.chunks[:at] if made.island == old.island])
        fitting = [
            piece
            for piece in self.pieces
            if list(piece.makes.values()) == list(old.piece.makes.values())
            and set(piece.needs.values()) <= set(known.values())
        ]
        if not fitting:
            return page
        made = self.filled(self.random.choice(fitting), known, old.island)
        renamed = dict(made.names)
        for letter, before in zip(made.piece.makes, old.piece.makes, strict=True):
            if letter not in made.piece.needs:
                renamed[letter] = old.name(before)
        return self._put(page, at, replace(made, label=old.label, names=tuple(renamed.items())))

    def insert(self, page: PageState) -> PageState:
        at = self._at(page)
        return self._put(page, at, self.chunk(list(page.chunks[:at])), old=0)

    def delete(self, page: PageState) -> PageState:
        return self._put(page, self._at(page)) if len(page.chunks) > 2 else page

    def swap(self, page: PageState) -> PageState:
        at = self._at(page)
        if at + 1 >= len(page.chunks):
            return page
        return self._put(page, at, page.chunks[at + 1], page.chunks[at], old=2)

    def again(self, page: PageState) -> PageState:
        self.count += 1
        at = self._at(page)
        return self._put(page, at, replace(page.chunks[at], label=f"c{self.count}"), old=0)

    def label(self, page: PageState) -> PageState:
        self.count += 1
        at = self._at(page)
        return self._put(page, at, replace(page.chunks[at], label=f"c{self.count}"))

    def layout(self, page: PageState) -> PageState:
        at = self._at(page)
        return self._put(page, at, replace(page.chunks[at], comment="" if page.chunks[at].comment else "# words\n\n"))

    def option(self, page: PageState) -> PageState:
        at = self._at(page)
        options = self.random.choice(
            ("", "keep=no", "seed=7", "rerun=always", "reads=*.json", "width=9cm", "show=nothing")
        )
        return self._put(page, at, replace(page.chunks[at], options=options))

    def give(self, page: PageState) -> PageState:
        given = (self.random.randint(1, 3), self.random.choice(("one", "two")))
        return replace(page, given=given, touched=frozenset({0, 1}))

    def data(self, page: PageState) -> PageState:
        text = self.random.choice(('{"k": 1}', '{"k": 2}', '{"k": 22}', '{"j": 3}', None))
        return replace(page, files=(*page.files, ("data.json", text)), touched=frozenset({0, 1}))

    def module(self, page: PageState) -> PageState:
        text = self.random.choice((LIB, LIB.replace("k = 1", "k = 5"), LIB.replace("+ k", "- k"), LIB + "# words\n"))
        return replace(page, files=(*page.files, ("lib.py", text)), touched=frozenset({0, 1}))

    def place(self, page: PageState) -> PageState:
        """A folder is there, or not."""
        name = f"{self.random.choice(ISLANDS[self.random.randrange(self.islands)])}_d/"
        files = (*page.files, (name, self.random.choice(("", None))))
        return replace(page, files=files, touched=frozenset({0, 1}))

    def mark(self, page: PageState) -> PageState:
        at = self._at(page)
        name = self.random.choice(ISLANDS[page.chunks[at].island])
        mark = self.random.choice(("", *MARKS)).replace("{a}", name)
        return self._put(page, at, replace(page.chunks[at], mark=mark))

    def upgrade(self, page: PageState) -> PageState:
        return replace(page, package=self.random.randint(1, 3), touched=frozenset({0, 1}))

    def part(self, page: PageState) -> PageState:
        return replace(page, insert=self.random.randint(0, 2), touched=frozenset({0, 1}))


def as_data(steps: list[PageState]) -> list[dict[str, Any]]:
    """Steps as they are printed, to be read by people."""
    return [{"text": step.text, "files": dict(step.files)} for step in steps]
