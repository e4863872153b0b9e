"""Where the time goes: `python -m benchmarks.profile` measures what `docs/performance.md` tells.

Stages are timed in one process, with all imports done; whole commands as they are called.
"""

from __future__ import annotations

import re
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Any
from unittest import mock

from wornpage.press import press

PYTHON = sys.executable
WORN = [PYTHON, "-m", "wornpage"]
STAGES = {
    "read": ("wornpage.press.story.read_page", "wornpage.press.story.prepare"),
    "run": ("wornpage.press.story.run_page",),
    "compose": ("wornpage.press.story.compose",),
    "write": ("wornpage.press.story.write_all",),
}
"""Functions whose time a stage is."""


def timed(command: list[str], folder: Path) -> float:
    """Seconds that a command takes."""
    begun = time.perf_counter()
    subprocess.run(command, cwd=folder, check=True, capture_output=True)
    return time.perf_counter() - begun


@contextmanager
def stages() -> Iterator[dict[str, float]]:
    """The seconds that each stage takes meanwhile."""
    spent = dict.fromkeys(STAGES, 0.0)

    def wrapped(name: str, function: Callable[..., Any]) -> Callable[..., Any]:
        def measured(*arguments: Any, **options: Any) -> Any:
            begun = time.perf_counter()
            try:
                return function(*arguments, **options)
            finally:
                spent[name] += time.perf_counter() - begun

        return measured

    with ExitStack() as stack:
        for name, places in STAGES.items():
            for place in places:
                module, _, attribute = place.rpartition(".")
                original = getattr(sys.modules[module], attribute)
                stack.enter_context(mock.patch(place, wrapped(name, original)))
        yield spent


def told(page: Path, kinds: list[str], **options: Any) -> str:
    """A pressing, stage by stage."""
    with stages() as spent:
        begun = time.perf_counter()
        press(page, kinds, **options)
        whole = time.perf_counter() - begun
    parts = ", ".join(f"{name} {seconds:.3f}" for name, seconds in spent.items())
    return f"{whole:.3f} s ({parts}, else {whole - sum(spent.values()):.3f})"


def by_chunks(folder: Path) -> None:
    """Chunks that hardly do anything: what each costs."""
    for count in (1, 10, 100, 1000):
        codes = [f"x{i} = {i} + sum(range(100))\nprint(x{i})\n" for i in range(count)]
        page = folder / f"chunks{count}.md"
        text = "A word.\n\n" + "\n".join(f"```python run\n{code}```\n" for code in codes)
        page.write_text(text, encoding="utf-8")
        (folder / "plain.py").write_text("".join(codes), encoding="utf-8")
        script = statistics.median(timed([PYTHON, "plain.py"], folder) for _ in range(3))
        first = timed([*WORN, "press", page.name], folder)
        nothing = statistics.median(timed([*WORN, "press", page.name], folder) for _ in range(3))
        page.write_text(text.replace("A word", "Some words"), encoding="utf-8")
        word = timed([*WORN, "press", page.name], folder)
        page.write_text(text.replace("A word", "Other words"), encoding="utf-8")
        print(
            f"{count} chunks: script {script:.2f} s, from nothing {first:.2f} s "
            f"({1000 * (first - script) / count:.0f} ms more a chunk), a word {word:.2f} s, nothing {nothing:.2f} s;\n"
            f"    a word by stages {told(page, ['html'])};\n    from nothing by stages {told(page, ['html'], afresh=True)}",
            flush=True,
        )


def by_values(folder: Path, gigabytes: tuple[float, ...] = (0.001, 0.1, 1.0, 5.0)) -> None:
    """A value that one chunk makes and another reads: made, kept, and had again."""
    for size in gigabytes:
        page = folder / "value.md"
        rows = int(size * 1e9 / 80)
        make = f"import numpy as np\nbig = np.random.default_rng(1).normal(size=({rows}, 10))\n"
        text = f"```python run\n{make}```\n\n```python run\nprint(big[0, 0], 0)\n```\n"
        page.write_text(text, encoding="utf-8")
        (folder / "plain.py").write_text(f"{make}print(big[0, 0], 0)\n", encoding="utf-8")
        script = timed([PYTHON, "plain.py"], folder)
        first = timed([*WORN, "press", page.name], folder)
        page.write_text(text.replace(", 0)", ", 1)"), encoding="utf-8")
        again = timed([*WORN, "press", page.name], folder)
        print(
            f"a value of {size * 1000:,.0f} MB: script {script:.2f} s, from nothing {first:.2f} s, its reader again {again:.2f} s",
            flush=True,
        )
        subprocess.run(["rm", "-rf", ".worn"], cwd=folder, check=True)


def by_sheets(folder: Path) -> None:
    """Prose with headings: HTML and PDF from nothing, and after a word."""
    sentence = "Some *prose* with `code`, a [link](https://marlow.example) and **more** of it, line upon line.\n"
    for paragraphs in (55, 550, 5500):
        page = folder / f"sheets{paragraphs}.md"
        text = "".join(f"# Part {i}\n\n" * (i % 10 == 0) + sentence * 6 + "\n" for i in range(paragraphs))
        page.write_text(text, encoding="utf-8")
        html = timed([*WORN, "press", page.name], folder)
        pdf = timed([*WORN, "press", page.name, "--as", "pdf"], folder)
        page.write_text(text.replace("Some *prose*", "Other *prose*", 1), encoding="utf-8")
        html_word = timed([*WORN, "press", page.name], folder)
        pdf_word = timed([*WORN, "press", page.name, "--as", "pdf"], folder)
        page.write_text(text.replace("Some *prose*", "More *prose*", 1), encoding="utf-8")
        info = subprocess.run(
            ["pdfinfo", page.with_suffix(".pdf").name], cwd=folder, capture_output=True, text=True, check=True
        )
        sheets = re.search(r"Pages:\s+(\d+)", info.stdout)
        print(
            f"{sheets[1] if sheets else '?'} sheets: HTML {html:.2f} s, a word {html_word:.2f} s; PDF {pdf:.2f} s, a word {pdf_word:.2f} s;\n"
            f"    HTML, a word, by stages {told(page, ['html'])};\n    PDF, the same, by stages {told(page, ['pdf'])}",
            flush=True,
        )


def start_up(folder: Path) -> None:
    """What every command begins with."""
    for name, command in (
        ("python", [PYTHON, "-c", ""]),
        ("import typer", [PYTHON, "-c", "import typer"]),
        ("worn --version", [*WORN, "--version"]),
    ):
        print(f"{name}: {statistics.median(timed(command, folder) for _ in range(7)):.3f} s")


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as place:
        for measure in (start_up, by_chunks, by_sheets, by_values):
            measure(Path(place))
