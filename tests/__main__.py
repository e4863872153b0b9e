"""Run every test, as many files at once as there are processors, and end with the line `N passed, N failed`.

A file of tests is run in a process of its own; `python -m tests FILE` runs one and says in its last line how it went.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).parent
# Files that take longest begin first, so that no processor waits for one of them at the end.
LONGEST = ("law", "pages", "plan", "languages", "volume", "collate", "session", "output", "proof", "desk")


def modules() -> list[str]:
    """The files of tests as names of modules, in the order in which they are begun."""
    names = [".".join(("tests", *path.relative_to(ROOT).with_suffix("").parts)) for path in ROOT.rglob("test_*.py")]
    rank = {name: place for place, name in enumerate(LONGEST)}
    return sorted(names, key=lambda name: (rank.get(name.split(".")[1], len(LONGEST)), name))


def run_here(name: str) -> int:
    """Run one file of tests in this process; its sums are the last line on standard output."""
    result = unittest.TextTestRunner(verbosity=1).run(unittest.defaultTestLoader.loadTestsFromName(name))
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    print("\n" + json.dumps({"run": result.testsRun, "failed": failed, "skipped": len(result.skipped)}))
    return 1 if failed else 0


def run_apart(name: str) -> dict[str, int]:
    """Run one file of tests in a process of its own, and tell of it when it is done."""
    command, begun = [sys.executable, "-m", "tests", name], time.monotonic()
    done = subprocess.run(command, check=False, capture_output=True, text=True, cwd=ROOT.parent)
    said = done.stdout.rstrip().splitlines()
    try:
        sums: dict[str, int] = json.loads(said[-1])
    except (IndexError, ValueError):
        sums = {"run": 1, "failed": 1, "skipped": 0}
    told = f"{name}: {sums['run']} run in {time.monotonic() - begun:.0f} s" + (
        f", {sums['failed']} failed" if sums["failed"] else ""
    )
    print(told if not sums["failed"] else f"{told}\n{done.stdout}{done.stderr}", flush=True)
    return sums


def main() -> int:
    """Exit status 0 if all passed."""
    if len(sys.argv) > 1:
        return run_here(sys.argv[1])
    with ThreadPoolExecutor(max_workers=os.cpu_count() or 1) as pool:
        sums = list(pool.map(run_apart, modules()))
    run, failed, skipped = (sum(each[key] for each in sums) for key in ("run", "failed", "skipped"))
    print(f"{run - failed - skipped} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""))
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
