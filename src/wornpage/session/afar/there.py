"""On a worker of a cluster: a process that runs one chunk in a session of its own, and ends. Asked on standard input."""

from __future__ import annotations

import os
import pickle
import signal
import sys

from wornpage.session.afar.asked import Asked, Came, unlike
from wornpage.session.faults import SessionFault
from wornpage.session.process import ProcessSession
from wornpage.session.python.environments import take
from wornpage.session.tasks import SessionOver


def run(asked: Asked) -> Came:
    """Run the chunk, if it is here what it is where it was asked."""
    os.environ.clear()
    os.environ.update(asked.variables)
    if not asked.python.is_own:
        take(asked.python)
    if why := unlike(asked):
        return Came(why=why)
    session = ProcessSession(asked.environment.threads)
    try:
        session.open(asked.environment)
        if asked.is_ahead:
            session.wait_for_turns()
        ran = session.run(asked.task, asked.at)
        return Came(ran) if not session.left else Came(why="it leaves something for the end of its session")
    except (SessionOver, SessionFault) as over:
        return Came(why=f"its session there has ended: {over}")
    finally:
        session.close()


def main() -> None:
    """Be that process."""
    signal.signal(signal.SIGTERM, lambda number, frame: sys.exit(1))
    told = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    with told:
        told.write(pickle.dumps(run(pickle.load(sys.stdin.buffer))))


if __name__ == "__main__":
    main()
