"""`python -m tests.law N [FIRST] [--team] [--ahead]`: try N made-up pages on all processors, and print what they came to; with `--team`
each also as somebody who has only what is shared, with `--ahead` each, and not only some, with several chunks at once.

`python -m tests.law --show SEED` prints the smallest page of a seed that still breaks the law.
"""

from __future__ import annotations

import os
import sys
from concurrent.futures import ProcessPoolExecutor
from functools import partial

from tests.law.pages import as_data
from tests.law.trying import Trial, smaller, try_seed, try_steps

_BATCH = 400


def main(arguments: list[str]) -> int:
    """Exit status 1 if the law is broken anywhere."""
    if arguments[:1] == ["--show"]:
        return show(int(arguments[1]))
    team, at_once = "--team" in arguments, 3 if "--ahead" in arguments else None
    arguments = [one for one in arguments if one not in {"--team", "--ahead"}]
    count, first = int(arguments[0]), int(arguments[1]) if arguments[1:] else 0
    trials: list[Trial] = []
    for start in range(first, first + count, _BATCH):
        with ProcessPoolExecutor(os.cpu_count()) as pool:  # new processes now and then, since some libraries grow
            for trial in pool.map(
                partial(try_seed, team=team, at_once=at_once),
                range(start, min(start + _BATCH, first + count)),
                chunksize=5,
            ):
                trials.append(trial)
                if trial.fault:
                    print(f"seed {trial.seed}: {trial.fault}", flush=True)
        print(f"{len(trials)} tried", file=sys.stderr, flush=True)
    faults = [trial.seed for trial in trials if trial.fault]
    chances, needless = sum(t.chances for t in trials), sum(t.needless for t in trials)
    print(f"{len(trials)} cases, {len(faults)} faults, {sum(t.ran for t in trials)} chunks ran after edits;")
    if team:
        print(f"{sum(t.had for t in trials)} chunks were had from the team")
    print(f"{sum(t.ahead for t in trials)} chunks ran ahead of their turn")
    print(f"{needless} of {chances} chunks that the edit did not touch ran needlessly")
    if faults:
        print(f"the first: python -m tests.law --show {faults[0]}")
    return 1 if faults else 0


def show(seed: int) -> int:
    """Print a smaller page that breaks the law."""
    steps = smaller(seed)
    for number, step in enumerate(as_data(steps)):
        print(f"===== step {number} {step['files']}")
        print(step["text"])
    print(try_steps(steps).fault)
    return 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
