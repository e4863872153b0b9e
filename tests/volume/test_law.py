"""The law for volumes: whatever was bound before, what is written is what a binding from nothing would write."""

import random
import sys
from collections.abc import Callable
from pathlib import Path

from tests.support import FolderCase
from wornpage.volume.binding import Wish, bind, volume_of

KINDS = ("html", "epub")
WORDS = "damp paper glue shelf ink mould spine".split()


class MadeUp:
    """A volume that is edited at random."""

    def __init__(self, folder: Path, seed: int) -> None:
        self.folder, self.chance = folder, random.Random(seed)
        self.names = [f"p{number}" for number in range(5)]
        self.order = list(self.names)
        self.settings = {"numbers": "by-chapter", "references": "whole", "title": "T"}
        self.pages = {name: self.page(name) for name in self.names}
        (folder / "r.bib").write_text(
            "".join(
                f"@book{{{key}, author={{A {key}}}, title={{On {key}}}, year={{200{at}}}}}\n"
                for at, key in enumerate(WORDS)
            )
        )
        self.write()

    def page(self, name: str) -> list[str]:
        """Front matter and some blocks."""
        return [
            f"title: About {self.chance.choice(WORDS)}",
            *(self.block(name) for _ in range(self.chance.randint(2, 5))),
        ]

    def block(self, name: str) -> str:
        """Something that others may point to, or that points."""
        number, other = self.chance.randint(1, 9), self.chance.choice(self.names)
        word = self.chance.choice(WORDS)
        return self.chance.choice([
            f"# Part {word} {{#h-{name}-{number}}}", f"| {word} |\n|---|\n| 1 |\n\nCaption: On {word}.\nLabel: t-{name}-{number}",
            f"$$ x = {number} $$\nLabel: e-{name}-{number}", f"See {{see {other}}}{{index {word}}} and {{cite {word}}}.",
            f"A note[^{number}-{word}] on {word}.\n\n[^{number}-{word}]: With {{see {other} as title}}.", f"```python run\nprint({number})\n```",
            f"A word, {{= {number} + 1}} of them.",
        ])  # fmt: skip

    def edit(self) -> str:
        """Change something; what was changed."""
        name = self.chance.choice(self.names)
        lines = self.pages[name]
        at = self.chance.randrange(1, len(lines) + 1)

        def turn() -> None:
            self.order.insert(self.chance.randrange(len(self.order)), self.order.pop())

        def drop() -> None:
            if name in self.order and len(self.order) > 2:
                self.order.remove(name)
            elif name not in self.order:
                self.order.append(name)

        def put(key: str, *values: str) -> Callable[[], None]:
            return lambda: self.settings.update({key: self.chance.choice(values)})

        done: dict[str, Callable[[], object]] = {
            "order": turn, "page in or out": drop, "new block": lambda: lines.insert(at, self.block(name)),
            "block gone": lambda: lines.pop() if len(lines) > 2 else None, "title": lambda: lines.__setitem__(0, f"title: Of {self.chance.choice(WORDS)}"),
            "a line above": lambda: lines.__setitem__(0, lines[0] + "\nsubtitle: s" * ("subtitle" not in lines[0])),
            "numbers": put("numbers", "by-chapter", "straight-through"), "references": put("references", "whole", "each", "both"),
            "title of all": put("title", "T", "U"), "words of a work": lambda: (self.folder / "r.bib").write_text((self.folder / "r.bib").read_text().replace("On", "Upon", 1)),
        }  # fmt: skip
        what = self.chance.choice(list(done))
        done[what]()
        self.write()
        return f"{what} ({name})"

    def write(self) -> None:
        for name, (front, *blocks) in self.pages.items():
            text = f"---\n{front}\nbibliography: r.bib\n---\n\n" + "\n\n".join(dict.fromkeys(blocks)) + "\n"
            (self.folder / f"{name}.md").write_text(text)
        settings = "".join(f"{key}: {value}\n" for key, value in self.settings.items())
        (self.folder / "volume.yaml").write_text(
            f"{settings}bibliography: r.bib\npages: [{', '.join(f'{one}.md' for one in self.order)}]\n"
        )


def bound(folder: Path, out: str, afresh: bool) -> dict[str, bytes]:
    """Every file that a binding leaves."""
    wish = Wish(folder / "volume.yaml", KINDS, folder / out, afresh=afresh, jobs=1)
    bind(volume_of(wish), wish, lambda *said: None, lambda *said: None)
    return {path.relative_to(folder / out).as_posix(): path.read_bytes() for path in (folder / out).rglob("*") if path.is_file()}  # fmt: skip


def fault_of(folder: Path, seed: int, edits: int) -> str:
    """Bind, edit, bind again and again; what was other than it should be, and after which edits."""
    volume, told = MadeUp(folder, seed), []
    bound(folder, "partly", afresh=False)
    for number in range(edits):
        told.append(volume.edit())
        partly = bound(folder, "partly", afresh=False)
        whole = bound(folder, f"whole-{number}", afresh=True)
        if partly != whole:
            other = [name for name in sorted({*partly, *whole}) if partly.get(name) != whole.get(name)]
            return f"seed {seed}, after {told}: {other}"
    return ""


class Law(FolderCase):
    def test_whatever_was_bound_before(self) -> None:
        for seed in range(3):
            place = self.folder / str(seed)
            place.mkdir()
            self.assertEqual(fault_of(place, seed, 4), "")


if __name__ == "__main__":
    import tempfile

    for number in range(int(sys.argv[1]), int(sys.argv[2])):
        with tempfile.TemporaryDirectory() as name:
            print(number, fault_of(Path(name), number, 6) or "ok", flush=True)
