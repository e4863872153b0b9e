"""Figures of speed, as ratios measured in one run: `make bench`. Runs alternate, and medians are told."""

from __future__ import annotations

import re
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from importlib.resources import files
from pathlib import Path
from typing import Any
from unittest import mock

from benchmarks.deck import deck
from benchmarks.editions import editions, memory
from benchmarks.side import shared, side_by_side
from benchmarks.volume import volume
from wornpage.demo import write_demo
from wornpage.press import press
from wornpage.session.process import ProcessSession

PYTHON = sys.executable
WORN = [PYTHON, "-m", "wornpage"]
RUNS = 5


def timed(command: list[str], folder: Path) -> float:
    """Seconds that a command takes; it must succeed."""
    begun = time.perf_counter()
    subprocess.run(command, cwd=folder, check=True, capture_output=True)
    return time.perf_counter() - begun


def peak(command: list[str], folder: Path) -> tuple[float, float]:
    """Seconds and the largest memory in MB of a command or its children, measured in a process of its own."""
    code = (
        "import resource, subprocess, sys, time; b = time.perf_counter(); "
        "subprocess.run(sys.argv[1:], check=True, capture_output=True); "
        "print(time.perf_counter() - b, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024)"
    )
    done = subprocess.run([PYTHON, "-c", code, *command], cwd=folder, check=True, capture_output=True, text=True)
    seconds, megabytes = map(float, done.stdout.split())
    return seconds, megabytes


def plain_script(page: str) -> str:
    """The same code as a script that saves the same figures."""
    chunks = re.findall(r"(?ms)^```python run[^\n]*\n(.*?)^```", page)
    save = (
        "\nimport sys as _s\nif 'matplotlib.pyplot' in _s.modules:\n"
        "    for _n in plt.get_fignums():\n        plt.figure(_n).set_layout_engine('constrained'); "
        "plt.savefig(f'plain-{_n}.svg'); plt.close(_n)\n"
    )
    return "import matplotlib; matplotlib.use('agg')\n" + "".join(chunk + save for chunk in chunks)


def demo(folder: Path) -> None:
    """Pressing the demo: from nothing against a plain script, and after small changes against from nothing."""
    write_demo(folder)
    page = folder / "paper-wear.md"
    text = page.read_text(encoding="utf-8")
    (folder / "plain.py").write_text(plain_script(text), encoding="utf-8")
    afresh = [*WORN, "press", page.name, "--afresh"]
    times: dict[str, list[float]] = {}

    def measure(name: str, command: list[str]) -> None:
        times.setdefault(name, []).append(timed(command, folder))

    for turn in range(RUNS):
        measure("plain script", [PYTHON, "plain.py"])
        measure("press from nothing, HTML", afresh)
        measure("press from nothing, HTML and PDF", [*afresh, "--as", "html,pdf"])
        measure("nothing changed", [*WORN, "press", page.name])
        measure("import typer", [PYTHON, "-c", "import typer"])
        page.write_text(text.replace("Damp does two things", f"Damp does {turn} things"), encoding="utf-8")
        measure("a word changed, HTML", [*WORN, "press", page.name])
        page.write_text(text.replace("Damp does two things", f"Damp {turn} does things"), encoding="utf-8")
        measure("a word changed, HTML and PDF", [*WORN, "press", page.name, "--as", "html,pdf"])
        page.write_text(text, encoding="utf-8")
    middle = {name: statistics.median(measured) for name, measured in times.items()}
    for name, base, goal in (
        ("press from nothing, HTML", "plain script", 1.15),
        ("nothing changed", "import typer", 2.5),
        ("a word changed, HTML", "press from nothing, HTML", 0.10),
        ("a word changed, HTML and PDF", "press from nothing, HTML and PDF", 0.15),
    ):
        print(
            f"{name:<34} {middle[name]:6.2f} s   ÷ {base:<34} {middle[base]:6.2f} s   {middle[name] / middle[base]:5.2f}   (goal {goal})"
        )


def many_chunks(folder: Path) -> None:
    """What a page of many chunks costs beside the chunks."""
    for count in (200, 2000):
        codes = [f"x{i} = {f'x{i - 1} + 1' if i else '1'}" for i in range(count - 1)]
        chunks = "\n".join(f"```python run #c{i}\n{code}\n```\n" for i, code in enumerate(codes))
        page = folder / f"many{count}.md"
        last = "\n```python run #last\nprint(x{0}, {1})\n```\n"
        page.write_text(chunks + last.format(count - 2, 0), encoding="utf-8")
        first = timed([*WORN, "press", page.name], folder)
        page.write_text(chunks + last.format(count - 2, 1), encoding="utf-8")
        again = timed([*WORN, "press", page.name], folder)
        status = timed([*WORN, "status", page.name], folder)
        empty = timed([*WORN, "--version"], folder)
        print(f"{count:,} chunks: from nothing {first:.2f} s; the last one changed {again:.2f} s; "
              f"status {status:.2f} s, {1000 * (status - empty) / count:.2f} ms a chunk")  # fmt: skip


def scholarly(folder: Path) -> None:
    """A long page of figures, tables, pointers and formulas: composing and writing grow with its length."""
    drawing = files("wornpage.demo").joinpath("folding-tester.svg").read_bytes()
    (folder / "figure.svg").write_bytes(drawing)
    words = "Paper wears out in two ways, by acid on the shelf and by folding in the hand. " * 12
    for count in (75, 150, 300):
        parts = ["---\ntitle: A long page\n---\n"]
        for i in range(count):
            parts.append(
                f"# Section {i} {{#s{i}}}\n\n{words}\n\n{words}\n\nSee {{see f{i}, t{i}}}, {{see s{count - i - 1}}} and "
                f"{{see e{i // 2}}}; $x_{{{i}}}^2 + \\frac{{1}}{{{i + 1}}}$.\n\n![A tester](figure.svg){{width=6cm #f{i}}}\n"
                f"Caption: Figure of {{see s{i}}}.\n\n| a | b | c |\n|---|---|---|\n"
                + "".join(f"| {i} | {j} | {i * j} |\n" for j in range(8))
                + f"Caption: Table of section {i}.\nLabel: t{i}\n\n$$ y = \\sum_{{k=1}}^{{{i + 2}}} a_k x^k $$\nLabel: e{i}\n"
            )
        page = folder / f"scholarly{count}.md"
        page.write_text("\n".join(parts), encoding="utf-8")
        html, _ = peak([*WORN, "press", page.name], folder)
        pdf, megabytes = peak([*WORN, "press", page.name, "--as", "pdf"], folder)
        found = re.search(r"Pages:\s+(\d+)", subprocess.run(["pdfinfo", page.with_suffix(".pdf")], capture_output=True, text=True, check=True).stdout)  # fmt: skip
        print(
            f"{count} figures, {count} tables, {4 * count:,} pointers: HTML {html:.2f} s; PDF of {found[1] if found else '?'} sheets {pdf:.2f} s, {megabytes:.0f} MB"
        )


def large_value(folder: Path) -> None:
    """How long the session is held up by a frame of 500 MB, against pickling it once in memory."""
    code = (
        "import numpy as np, pandas as pd, pickle, time\n"
        "frame = pd.DataFrame(np.random.default_rng(1).normal(size=(6_250_000, 10)))\n"
        "b = time.perf_counter(); n = len(pickle.dumps(frame, 5)); print('PICKLE', time.perf_counter() - b)\n"
    )
    page = folder / "big.md"
    page.write_text(f"```python run #big\n{code}```\n", encoding="utf-8")
    held_up: list[float] = []
    run = ProcessSession.run

    def measured(self: ProcessSession, *arguments: Any) -> Any:
        begun = time.perf_counter()
        ran = run(self, *arguments)
        held_up.append(time.perf_counter() - begun - ran.result.seconds)
        return ran

    pickled = []
    with mock.patch.object(ProcessSession, "run", measured):
        for _ in range(3):
            press(page, afresh=True)
            pickled.append(float(re.search(r"PICKLE ([\d.]+)", page.with_suffix(".html").read_text("utf-8"))[1]))  # type: ignore[index]
    blocked, pickling = statistics.median(held_up), statistics.median(pickled)
    print(
        f"a frame of 500 MB: session held up {blocked:.2f} s ÷ pickling it {pickling:.2f} s = {blocked / pickling:.2f}   (goal 1.0)"
    )


def large(folder: Path) -> None:
    """Many chunks, much prose, many sheets."""
    chunks = "\n".join(f"Words {{= x}}.\n\n```python run\nx = {i}\n```\n" for i in range(1000))
    (folder / "chunks.md").write_text("```python run\nx = 0\n```\n\n" + chunks, encoding="utf-8")
    sentence = "Some *prose* with `code`, a [link](https://marlow.example) and **more** of it, line upon line.\n"
    paragraph = sentence * 6 + "\n"
    prose = "".join(f"# Part {i}\n\n{paragraph * 20}" for i in range(5_000_000 // (len(paragraph) * 20)))
    (folder / "prose.md").write_text(prose, encoding="utf-8")
    (folder / "sheets.md").write_text(prose[:600_000], encoding="utf-8")
    for name, label, kind in (
        ("chunks.md", "1,000 trivial chunks to HTML", "html"),
        ("prose.md", "5 MB of prose to HTML", "html"),
    ):
        seconds, megabytes = peak([*WORN, "press", name, "--as", kind], folder)
        print(f"{label:<48} {seconds:7.2f} s   peak {megabytes:6.0f} MB")
    seconds, megabytes = peak([*WORN, "press", "sheets.md", "--as", "pdf"], folder)
    info = subprocess.run(["pdfinfo", "sheets.pdf"], cwd=folder, check=True, capture_output=True, text=True).stdout
    sheets = int(re.search(r"Pages:\s+(\d+)", info)[1])  # type: ignore[index]
    print(
        f"{f'{sheets} sheets of prose to PDF':<48} {seconds:7.2f} s   {sheets / seconds:.0f} sheets/s, peak {megabytes:.0f} MB"
    )


if __name__ == "__main__":
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    print("about eleven minutes on two processors; every ratio is of two things measured in this run", flush=True)
    with tempfile.TemporaryDirectory() as place:
        demo(Path(place))
        many_chunks(Path(place))
        scholarly(Path(place))
        large_value(Path(place))
        large(Path(place))
    with tempfile.TemporaryDirectory() as place:
        editions(Path(place))
        memory(Path(place))
    with tempfile.TemporaryDirectory() as place:
        side_by_side(Path(place))
        shared(Path(place))
    with tempfile.TemporaryDirectory() as place:
        volume(Path(place), peak)
        deck(Path(place), peak)
