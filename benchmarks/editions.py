"""Many editions of a page against as many runs of a plain script; nothing changed; one row changed; memory."""

from __future__ import annotations

import re
import statistics
import subprocess
import sys
import time
from pathlib import Path

from wornpage.demo import write_demo

PYTHON = sys.executable
WORN = [PYTHON, "-m", "wornpage"]
SCRIPT = Path(__file__).parent / "branch_script.py"
COUNT = 200
SAMPLE = 15
"""Runs of the plain script that are timed; its time does not hang on how many there are."""
_PEAK = (
    "import resource, sys; from wornpage.cli import main; sys.argv[0] = 'worn'\n"
    "try: main()\n"
    "finally: print('PEAK', resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, file=sys.stderr)"
)


def editions(folder: Path) -> None:
    """The branch report for 200 branches."""
    write_demo(folder)
    rows = [(f"Branch {i}", 300 + i) for i in range(COUNT)]
    _spread(folder / "data", [branch for branch, _ in rows])
    table = folder / "data" / "branches.csv"
    page = folder / "branch-report.md"
    page.write_text(page.read_text("utf-8").replace("default: Quayside", "default: Branch 0"), encoding="utf-8")
    _write(table, rows)
    (folder / "plain").mkdir()
    alone = []
    for branch, budget in rows[:SAMPLE]:
        begun = time.perf_counter()
        subprocess.run([PYTHON, SCRIPT, branch, str(budget), "plain"], cwd=folder, check=True, capture_output=True)
        alone.append(time.perf_counter() - begun)
    script = COUNT * statistics.median(alone)
    first, _ = _press(folder, page.name)
    print(
        f"{COUNT} editions {first:.1f} s ÷ {COUNT} runs of a plain script {script:.1f} s = {first / script:.2f}   (goal 0.25)"
    )
    again, said = _press(folder, page.name)
    print(f"nothing changed: {again:.2f} s, {1000 * again / COUNT:.1f} ms an edition   (goal 10); {said}")
    rows[7] = (rows[7][0], rows[7][1] + 1)
    _write(table, rows)
    changed, said = _press(folder, page.name)
    print(f"one row changed: {changed:.2f} s; {said}")


def _spread(data: Path, branches: list[str]) -> None:
    """Data of as many branches as there are editions, so that none has anything in common with another but the library."""
    for name, each in (("volumes.csv", 12), ("climate.csv", 60)):
        head, *lines = (data / name).read_text("utf-8").splitlines()
        at = head.split(",").index("branch")
        made = [head]
        for place, branch in enumerate(branches):
            for number in range(each):
                cells = lines[(place * each + number) % len(lines)].split(",")
                cells[at] = branch
                made.append(",".join(cells))
        (data / name).write_text("\n".join(made) + "\n", encoding="utf-8")


def memory(folder: Path) -> None:
    """What the coordinating process holds, for few editions and for many."""
    for count in (100, 5000):
        page = folder / f"memory{count}.md"
        page.write_text(
            f"---\ntitle: Edition {{= given.n}}\ngiven:\n  n: 0\neditions:\n  expression: \"[{{'n': i}} for i in range({count})]\"\n"
            "  headline: {Twice: 2 * given.n}\n---\n\nHere is {= given.n}.\n",
            encoding="utf-8",
        )
        command = [PYTHON, "-c", _PEAK, "press", page.name, "--all-editions", "--out", f"out{count}"]
        begun = time.perf_counter()
        done = subprocess.run(command, cwd=folder, check=True, capture_output=True, text=True)
        took = time.perf_counter() - begun
        held = re.search(r"PEAK ([\d.]+)", done.stderr)
        print(
            f"{count:,} editions without code: {took:.1f} s, coordinator at most {float(held[1]) if held else 0:.0f} MB"
        )


def _write(table: Path, rows: list[tuple[str, int]]) -> None:
    table.write_text("branch,budget\n" + "".join(f"{branch},{budget}\n" for branch, budget in rows), encoding="utf-8")


def _press(folder: Path, page: str) -> tuple[float, str]:
    begun = time.perf_counter()
    done = subprocess.run(
        [*WORN, "press", page, "--all-editions"], cwd=folder, check=True, capture_output=True, text=True
    )
    return time.perf_counter() - begun, done.stderr.splitlines()[-1]


if __name__ == "__main__":
    import tempfile

    with tempfile.TemporaryDirectory() as place:
        editions(Path(place))
        memory(Path(place))
