"""A deck of sixty slides: a word in one of them, as HTML, on sheets, and as a presentation."""

from __future__ import annotations

import re
import sys
from collections.abc import Callable
from pathlib import Path

COUNT = 60


def write_deck(folder: Path) -> Path:
    """Text and a formula on each slide, a table or a picture on most."""
    parts = ["---\ntitle: Sixty slides\npress: {slides: {chunks: {show: all}}}\n---\n"]
    picture = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 300 150"><path d="M10 140 L150 40 L290 20" stroke="#1c5a63" fill="none"/></svg>'
    (folder / "figure.svg").write_text(picture, encoding="utf-8")
    for number in range(COUNT):
        parts.append(
            f"## Slide {number}\n\nSome words about slide {number}, and $x_{{{number}}}^2$.\n\n- one item\n- another\n\n{{steps=yes}}\n"
        )
        if number % 3 == 0:
            parts.append(f"![Wear](figure.svg){{#figure-{number}}}\n\nCaption: Wear, slide {number}.\n")
        if number % 3 == 1:
            parts.append("| Kind | Count |\n|------|------:|\n| rag | 12 |\n| pulp | 340 |\n\nCaption: Counts.\n")
    page = folder / "deck.md"
    page.write_text("\n".join(parts), encoding="utf-8")
    return page


def deck(folder: Path, peak: Callable[[list[str], Path], tuple[float, float]]) -> None:
    """Print what a changed word costs in each output, against what it costs on the page itself."""
    page = write_deck(folder)
    seconds = {}
    for kind in ("html", "slides", "slides-pdf", "pptx"):
        press = [sys.executable, "-m", "wornpage", "press", page.name, "--as", kind]
        peak(press, folder)
        found = []
        for turn in range(3):
            said = f"Some {kind}{turn} about slide 31"
            text = re.sub(r"Some \S+ about slide 31", said, page.read_text("utf-8"))
            page.write_text(text, encoding="utf-8")
            found.append(peak(press, folder)[0])
        seconds[kind] = min(found)
    base = seconds["html"]
    told = ", ".join(f"{kind} {took:.2f} s ({took / base:.1f})" for kind, took in seconds.items())
    print(f"a word in {COUNT} slides, ÷ the page in HTML: {told}   (goals 0.3 s, 1 s for pptx)")
