"""`python -m tests.languages [NAME …]` tries the hard pages in R; `python -m tests.languages --made N [FIRST]` tries made-up ones in several languages."""

from __future__ import annotations

import random
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from tempfile import TemporaryDirectory

from tests.hazards import try_case
from tests.languages.r_pages import HARD, steps
from tests.languages.test_bash import chunk
from tests.languages.test_r import Law


def hard(name: str) -> str:
    """What is wrong with a hard page, each of its steps pressed with the store and from nothing; empty for nothing."""
    pages = ["\n\n".join(chunk(label, code, language="r") for label, code in step.items()) for step in steps(name)]
    case = {
        "name": name,
        "files": {},
        "steps": [{"page": f"---\ntitle: t\n---\n\n{page}\n", "chunks": []} for page in pages],
    }
    return "; ".join(try_case(case).broken)


def made(seed: int) -> str:
    """The same for a made-up page and four edits of it."""
    with TemporaryDirectory() as place:
        try:
            Law("test_made_up_pages").attempt(random.Random(seed), Path(place))
        except AssertionError as fault:
            return str(fault)[-2000:]
    return ""


def main(arguments: list[str]) -> int:
    """Exit status 1 if the law is broken anywhere."""
    if arguments[:1] == ["--made"]:
        first = int(arguments[2]) if arguments[2:] else 0
        wanted: list[object] = list(range(first, first + int(arguments[1])))
    else:
        wanted = list(arguments or HARD)
    broken = 0
    with ProcessPoolExecutor() as pool:
        for one, fault in zip(wanted, pool.map(made if arguments[:1] == ["--made"] else hard, wanted), strict=True):  # type: ignore[arg-type]
            if fault:
                broken += 1
                print(f"{one}: {fault}", flush=True)
    print(f"{len(wanted)} pages, {broken} at fault")
    return 1 if broken else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
