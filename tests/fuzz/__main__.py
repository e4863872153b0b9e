"""`python -m tests.fuzz SECONDS [TARGET …]`: random inputs for so long; prints what was tried and every finding."""

from __future__ import annotations

import random
import resource
import sys
import time
import traceback
from collections import Counter
from dataclasses import dataclass, field

from hypothesis import HealthCheck, Phase, given, seed, settings

from tests.fuzz.targets import EXPECTED, TARGETS, inputs

SLOW = 10.0
"""Seconds that no input of a few thousand letters may take."""
MOST_MEMORY = 1_000_000
"""Kilobytes that reading one may cost."""


@dataclass
class Round:
    """What came of some time of trying."""

    tried: Counter[str] = field(default_factory=Counter)
    findings: dict[tuple[str, str], str] = field(default_factory=dict)
    """By target and the place of the fault: the first input that leads to it, and what happened."""


def fuzz(seconds: float, names: list[str], start: int) -> Round:
    """Try each target in turn until the time is over; `start` is the first seed."""
    found, end, number = Round(), time.monotonic() + seconds, start
    while time.monotonic() < end:
        for name in names:
            number += 1
            _some(found, name, number, 4 if name in {"page", "store"} else 25)
            if time.monotonic() > end and len(found.tried) == len(names):
                break  # each has had its turn, however slow the machine is
    return found


def _some(found: Round, name: str, number: int, count: int) -> None:
    target = TARGETS[name]

    @seed(number)
    @settings(
        max_examples=count,
        deadline=None,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(inputs(target))
    def attempt(text: str) -> None:
        found.tried[name] += 1
        begun, memory = time.monotonic(), resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        try:
            target.read(text)
        except EXPECTED:
            pass
        except Exception as error:
            frame = traceback.extract_tb(error.__traceback__)[-1]
            key = (name, f"{type(error).__name__} at {frame.filename.rpartition('/')[2]}:{frame.lineno}")
            found.findings.setdefault(key, f"{text[:300]!r}: {error}"[:600])
        if time.monotonic() - begun > SLOW:
            found.findings.setdefault(
                (name, "slow"), f"{text[:200]!r}… of {len(text)}: {time.monotonic() - begun:.1f} s"
            )
        if resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - memory > MOST_MEMORY:
            found.findings.setdefault((name, "memory"), f"{text[:200]!r}… of {len(text)}")

    attempt()


def main(arguments: list[str]) -> int:
    """Exit status 1 if anything was found."""
    seconds = float(arguments[0]) if arguments else 300
    start = random.randrange(10**6)
    found = fuzz(seconds, arguments[1:] or list(TARGETS), start)
    for (name, where), what in found.findings.items():
        print(f"{name}: {where}\n    {what}")
    tried = ", ".join(f"{count} {name}" for name, count in found.tried.items())
    print(f"{sum(found.tried.values())} inputs ({tried}), {len(found.findings)} findings; first seed {start}")
    return 1 if found.findings else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
