"""Pages on the workers of a cluster that is there already, reached by its scheduler's address (Dask's `distributed`).

The page's folder, with its store, is one that all of them share. A worker presses with processes of its own, as here.
"""

from __future__ import annotations

import queue
import secrets
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from importlib import import_module
from typing import Any

import msgspec

from wornpage.press.crew import ATTEMPTS, Report, Task, Trade, Worker, WorkerDied, died_again
from wornpage.press.wire import unwired, wired
from wornpage.session.afar.cluster import PATIENCE, NoCluster, connected
from wornpage.tree.machine import processors
from wornpage.tree.problem import UsageError

_RUN = secrets.token_hex(8)

_idle: dict[bytes, queue.LifoQueue[Worker[Any, Any]]] = {}
"""On a worker of the cluster: processes that wait for the next edition, by the job they know."""


def press_on_cluster(trade: Trade[Task, Report], tasks: Sequence[Task], address: str) -> Iterator[Report]:
    """The reports on `tasks`, pressed by the workers of the scheduler at `address`. Raises `UsageError`."""
    with _client(address) as client:
        from distributed import as_completed

        known = wired(trade.job)
        pressed, asked = as_completed(loop=client.loop), {}
        for number, task in enumerate(tasks):
            future = client.submit(
                _press_there, trade.home, known, wired(task), pure=False, key=f"worn-{_RUN}-{number}"
            )
            asked[future.key] = task
            pressed.add(future)
        try:
            for future in pressed:
                report = _report(trade, asked.pop(future.key), future)
                future.release()
                yield report
        finally:
            client.run(_dismiss, known)


def _report(trade: Trade[Task, Report], task: Task, future: Any) -> Report:
    error = future.exception()
    if error is None:
        return unwired(future.result(), trade.report)
    if type(error).__name__ == "KilledWorker":
        return trade.died(task, "died again and again on the cluster's workers.")
    return trade.died(task, f"came to nothing on the cluster: {type(error).__name__}: {error}")


@contextmanager
def _client(address: str) -> Iterator[Any]:
    try:
        client = connected(address)
    except NoCluster as no:
        raise UsageError(f"--workers-at {address}: {no}.") from None
    try:
        yield client
    finally:
        client.close(PATIENCE)


def _press_there(home: str, known: bytes, asked: bytes) -> bytes:
    """On a worker of the cluster: press one page, in a process that stays for the next. `home` is the module that knows the trade."""
    there = import_module(home)
    trade: Trade[Any, msgspec.Struct] = there.trade_of(unwired(known, there.Job))
    task = unwired(asked, there.Task)
    idle = _idle.setdefault(known, queue.LifoQueue())
    end = ""
    for _ in range(ATTEMPTS):
        try:
            worker = idle.get_nowait()
        except queue.Empty:
            worker = Worker(trade, processors())
        last: Any = None
        try:
            *_, last = worker.press(task)
        except WorkerDied as died:
            worker.stop()
            end = str(died)
            continue
        if worker.is_old:
            worker.close()
        else:
            idle.put(worker)
        return wired(last)  # the report is the last that is said
    return wired(trade.died(task, died_again(end)))


def _dismiss(known: bytes) -> None:
    """On a worker of the cluster: let go of the processes of a pressing that is over."""
    idle = _idle.pop(known, None)
    while idle is not None and not idle.empty():
        idle.get_nowait().close()
