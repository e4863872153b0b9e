"""Figures of speed, as ratios measured in one run: `make bench`. Runs alternate, and medians are told."""

from __future__ import annotations

import re
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from wornpage.demo import write_demo

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
    """Pressing the demo against a plain script."""
    write_demo(folder)
    page = folder / "paper-wear.md"
    (folder / "plain.py").write_text(plain_script(page.read_text(encoding="utf-8")), encoding="utf-8")
    commands = {
        "plain script": [PYTHON, "plain.py"],
        "press to HTML": [*WORN, "press", page.name],
        "press to PDF": [*WORN, "press", page.name, "--as", "pdf"],
    }
    times: dict[str, list[float]] = {name: [] for name in commands}
    for _ in range(RUNS):
        for name, command in commands.items():
            times[name].append(timed(command, folder))
    base = statistics.median(times["plain script"])
    for name, measured in times.items():
        print(
            f"{name:<48} {statistics.median(measured):7.2f} s   ÷ plain script {statistics.median(measured) / base:5.2f}"
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


def start_up(folder: Path) -> None:
    """What a command costs before it does anything."""
    base = statistics.median(timed([PYTHON, "-c", "import typer"], folder) for _ in range(RUNS))
    own = statistics.median(timed([*WORN, "--version"], folder) for _ in range(RUNS))
    print(f"{'worn --version':<48} {own:7.2f} s   ÷ importing Typer {own / base:5.2f}")


if __name__ == "__main__":
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    with tempfile.TemporaryDirectory() as place:
        demo(Path(place))
        start_up(Path(place))
        large(Path(place))
