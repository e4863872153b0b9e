"""Chunks side by side: against a plain script, against one after the other, and what it takes of memory."""

from __future__ import annotations

import os
import shutil
import statistics
import subprocess
import sys
import threading
import time
from pathlib import Path

PYTHON = sys.executable
WORN = [PYTHON, "-m", "wornpage"]
_HEAD = "import numpy as np\nimport pandas as pd\n"
_DATA = "d = pd.read_csv('d.csv')\nx = np.resize(d.x.to_numpy(float), 400_000)\n"
_BOOT = (
    "def boot{i}(n):\n    rng = np.random.default_rng({i})\n"
    "    return [float(np.sort(rng.choice(x, 100_000)).mean()) for _ in range(n)]\n"
    "m{i} = boot{i}({rounds})\nprint(np.mean(m{i}))\n"
)
_CHAIN = "for _ in range({rounds}):\n    x = np.sort(x[::-1] * 1.0 + {i})\nprint(x.sum())\n"
ROUNDS = 5


def _page(codes: list[str], at_once: int | None) -> str:
    """A page of chunks."""
    head = f"---\nchunks-at-once: {at_once}\n---\n\n" if at_once else ""
    return head + "\n".join(f"```python run #c{i}\n{code}```\n" for i, code in enumerate(codes))


def _calibrated(code: str, seconds: float) -> list[str]:
    """Twelve chunks of about so many seconds each."""
    setup = f"{_HEAD}import time\nx = np.resize(np.arange(5.0), 400_000)\nb = time.perf_counter()\n"
    measured = setup + code.format(i=0, rounds=20).replace("print(", "str(") + "print((time.perf_counter() - b) / 20)"
    each = float(subprocess.run([PYTHON, "-c", measured], capture_output=True, text=True, check=True).stdout)
    return [code.format(i=i, rounds=max(1, round(seconds / each))) for i in range(12)]


def side_by_side(folder: Path) -> None:
    """Data corrected: all that hangs on it runs again."""
    for name, code, base, goal in (
        ("twelve chunks of half a second", _BOOT, "plain script", 0.6),
        ("twelve of which each needs the one above", _CHAIN, "one after the other", 1.05),
    ):
        codes = [_HEAD, _DATA, *_calibrated(code, 0.5)]
        times: dict[str, list[float]] = {}
        (folder / "plain.py").write_text("".join(codes), encoding="utf-8")
        for place, at_once in (("several", None), ("one", 1)):
            (folder / place).mkdir(exist_ok=True)
            (folder / place / "page.md").write_text(_page(codes, at_once), encoding="utf-8")
        for turn in range(ROUNDS + 1):
            for place in (folder, folder / "several", folder / "one"):
                (place / "d.csv").write_text(f"x\n1\n2\n3\n4\n{turn + 5}\n", encoding="utf-8")
            for what, place, command in (
                ("plain script", folder, [PYTHON, "plain.py"]),
                ("side by side", folder / "several", [*WORN, "press", "page.md"]),
                ("one after the other", folder / "one", [*WORN, "press", "page.md"]),
            ):
                begun = time.perf_counter()
                subprocess.run(
                    command, cwd=place, check=True, capture_output=True, env={**os.environ, "WORN_WARM": "no"}
                )
                if turn:
                    times.setdefault(what, []).append(time.perf_counter() - begun)
        middle = {what: statistics.median(measured) for what, measured in times.items()}
        told = ", ".join(f"{what} {seconds:.2f} s" for what, seconds in middle.items())
        print(f"{name}, data corrected: {told}; ÷ {base} {middle['side by side'] / middle[base]:.2f}   (goal {goal})")


def shared(folder: Path, gigabytes: float = 2.0) -> None:
    """A frame that chunks read, one after the other and side by side: what all sessions take of memory together, at most."""
    rows = int(gigabytes * 1e9 / 80)
    codes = [
        _HEAD,
        f"big = pd.DataFrame(np.random.default_rng(1).normal(size=({rows}, 10)))\n",
        *(f"total = float(sum(big[{i}].mean() for _ in range(40)))\nprint(total)\n" for i in range(6)),
    ]
    most = {}
    for at_once in (1, 3):
        place = folder / f"shared{at_once}"
        place.mkdir()
        (place / "page.md").write_text(_page(codes, at_once), encoding="utf-8")
        most[at_once] = _memory_of([*WORN, "press", "page.md"], place)
        shutil.rmtree(place)
    told = ", ".join(f"{at_once} at once {held:.2f} GB" for at_once, held in most.items())
    print(f"a frame of {gigabytes:.1f} GB and six chunks that read it: {told}   (goal: the same)")


def _memory_of(command: list[str], folder: Path) -> float:
    """The most that all processes at work in a folder take while a command runs, in gigabytes."""
    most, over = [0.0], threading.Event()
    watching = threading.Thread(target=_watch, args=(folder, most, over))
    watching.start()
    subprocess.run(command, cwd=folder, check=True, capture_output=True)
    over.set()
    watching.join()
    return most[0]


def _watch(folder: Path, most: list[float], over: threading.Event) -> None:
    """The most that the processes at work in a folder share out among them, in gigabytes."""
    while not over.wait(0.05):
        found = 0
        for place in Path("/proc").glob("[0-9]*"):
            try:
                if (place / "cwd").resolve() == folder.resolve():
                    told = (place / "smaps_rollup").read_text()
                    found += int(told.partition("\nPss:")[2].split()[0])
            except (OSError, IndexError, ValueError):
                continue
        most[0] = max(most[0], found / 1e6)


if __name__ == "__main__":
    import tempfile

    with tempfile.TemporaryDirectory() as place:
        side_by_side(Path(place))
        shared(Path(place))
