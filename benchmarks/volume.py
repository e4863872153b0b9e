"""A volume of a hundred chapters: nothing changed, a word in one of them, two chapters in another order, all of it on sheets."""

from __future__ import annotations

import random
import re
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

COUNT = 100
_WORDS = (
    "damp paper glue volume fibre acid shelf reading room lamp press thread linen leather vellum ink dust mould".split()
)
_SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 300 150"><path d="M10 140 L150 {y} L290 20" stroke="#1c5a63" fill="none"/></svg>'


def write_volume(folder: Path) -> None:
    """300 figures, 300 tables, 1,000 pointers, about 450 sheets."""
    chance = random.Random(1)

    def prose(count: int) -> str:
        return " ".join(chance.choice(_WORDS) for _ in range(count)).capitalize() + "."

    for chapter in range(1, COUNT + 1):
        parts = [f"---\ntitle: On {chance.choice(_WORDS)} {chapter}\n---\n"]
        for part in range(1, 4):
            (folder / f"figure-{part}.svg").write_text(_SVG.format(y=40 * part), encoding="utf-8")
            parts.append(f"# Part {part} {{#part-{chapter}-{part}}}\n\n{prose(260)}\n\n{prose(200)}\n")
            pointers = [
                f"{{see {kind}-{chance.randint(1, COUNT)}-{chance.randint(1, 3)}}}"
                for kind in ("figure", "table", "part")
            ]
            parts.append(f"{prose(30)} See {', '.join(pointers)}.\n")
            parts.append(f"![Wear](../figure-{part}.svg){{#figure-{chapter}-{part}}}\n\nCaption: {prose(6)}\n")
            rows = "\n".join(f"| {chance.choice(_WORDS)} | {chance.randint(1, 999)} |" for _ in range(8))
            parts.append(
                f"| Kind | Count |\n|------|------:|\n{rows}\n\nCaption: {prose(5)}\nLabel: table-{chapter}-{part}\n\n{prose(150)}\n"
            )
        path = folder / "chapters" / f"c{chapter:03}.md"
        path.parent.mkdir(exist_ok=True)
        path.write_text("\n".join(parts), encoding="utf-8")
    (folder / "volume.yaml").write_text("title: A long handbook\npages: [chapters/*.md]\n", encoding="utf-8")


def volume(folder: Path, peak: Callable[[list[str], Path], tuple[float, float]]) -> None:
    """Print what each binding takes, against one of nothing changed."""
    write_volume(folder)
    bind = [sys.executable, "-m", "wornpage", "bind"]
    first, _ = peak(bind, folder)
    nothing = min(peak(bind, folder)[0] for _ in range(3))
    print(f"{COUNT} chapters from nothing: {first:.1f} s; nothing changed: {nothing:.2f} s   (goal 0.6)")
    page = folder / "chapters" / "c050.md"
    page.write_text(page.read_text("utf-8").replace("See ", "Look at ", 1), encoding="utf-8")
    word, _ = peak(bind, folder)
    print(f"a word in one chapter: {word:.2f} s ÷ nothing changed = {word / nothing:.1f}   (goal 1.2 s)")
    order = "title: A long handbook\npages: [chapters/c002.md, chapters/c001.md, chapters/*.md]\n"
    (folder / "volume.yaml").write_text(order, encoding="utf-8")
    moved, _ = peak(bind, folder)
    print(f"two chapters in another order: {moved:.2f} s ÷ nothing changed = {moved / nothing:.1f}   (goal 3 s)")
    seconds, megabytes = peak([*bind, "--as", "pdf"], folder)
    info = subprocess.run(
        ["pdfinfo", next((folder / "bound").glob("*.pdf"))], check=True, capture_output=True, text=True
    )
    sheets = int(re.search(r"Pages:\s+(\d+)", info.stdout)[1])  # type: ignore[index]
    print(f"{sheets} sheets of it: {seconds:.1f} s, peak {megabytes:.0f} MB   (goal 8 s, 500 MB)")
