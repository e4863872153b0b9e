"""The workers of a cluster that is there already, reached by its scheduler's address (Dask's `distributed`)."""

from __future__ import annotations

import pickle
import secrets
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import suppress
from threading import Lock
from typing import TYPE_CHECKING, Any

from wornpage.session.tasks import ChunkTask, Environment, Position, Ran

if TYPE_CHECKING:
    from wornpage.session.afar.asked import Came

PATIENCE = 20
"""Seconds in which the scheduler must answer."""
_LOOK = 0.05
"""Seconds between two looks whether what is waited for is still wanted."""
_LOOK_THERE = 1.0
"""The same on a worker."""


class NotThere(Exception):
    """A chunk cannot run on the cluster; the words say why."""


class NoCluster(Exception):
    """No cluster can be had; the words say why."""


def connected(address: str) -> Any:
    """A client of the scheduler at an address, with workers. Raises `NoCluster`."""
    try:
        from distributed import Client
    except ImportError:
        raise NoCluster("it needs the package distributed; install Worn Page with its extra `cluster`") from None
    import logging

    logging.getLogger("distributed").setLevel(logging.CRITICAL)
    try:
        client = Client(address, timeout=PATIENCE, set_as_default=False)
    except (OSError, ValueError, TypeError) as error:
        raise NoCluster(f"no scheduler answers there ({error})") from None
    if not client.scheduler_info()["workers"]:
        client.close(PATIENCE)
        raise NoCluster("the scheduler has no workers; start some, then press again")
    return client


class Cluster:
    """The cluster of a walk. Nobody is asked before a chunk is to run there."""

    def __init__(self, address: str, environment: Environment) -> None:
        self.address, self._environment = address, environment
        self._client: Any = None
        self._lock = Lock()
        self.trouble = ""
        """Why it cannot be had; empty as long as nothing is known against it."""

    @property
    def room(self) -> int:
        """How many chunks its workers run at the same time."""
        client = self._connected()
        try:
            return sum(one["nthreads"] for one in client.scheduler_info()["workers"].values()) if client else 0
        except Exception as error:  # whatever a scheduler dies of
            self.trouble = _gone(error)
            return 0

    def session(self, is_ahead: bool) -> AfarSession:
        """One that runs chunks there; if `is_ahead`, so that nobody sees anything of it. Raises `NotThere`."""
        client = self._connected()
        if client is None:
            raise NotThere(self.trouble)
        return AfarSession(client, self._environment, is_ahead)

    def _connected(self) -> Any:
        with self._lock:
            if self._client is None and not self.trouble:
                try:
                    self._client = connected(self.address)
                except NoCluster as no:
                    self.trouble = str(no)
            return self._client

    def close(self) -> None:
        """Leave it."""
        with self._lock:
            if self._client is not None:
                with suppress(Exception):
                    self._client.close(PATIENCE)
                self._client, self.trouble = None, "it has been left"


def _end_of(future: Any) -> str:
    """How a task has ended that has given nothing."""
    error = future.exception() if future.status == "error" else None
    return f"{type(error).__name__}: {error}" if error is not None else "it was lost with the scheduler"


def _gone(error: Exception) -> str:
    return f"it came to nothing on the cluster: {type(error).__name__}: {error}"


class AfarSession:
    """Stands where a chunk is to run, on whichever worker has room: each chunk has a session of its own there."""

    def __init__(self, client: Any, environment: Environment, is_ahead: bool) -> None:
        self._client, self._environment, self._is_ahead = client, environment, is_ahead
        self._key = ""
        self._is_wanted = True
        self.on_tally: Callable[[str, int, int], None] | None = None

    def run(self, task: ChunkTask, at: Position) -> Ran:
        """Run one chunk, at a place that is told whole. Raises `NotThere`."""
        from wornpage.session.afar.asked import asked

        self._key = f"worn-chunk-{secrets.token_hex(8)}"
        told = pickle.dumps(asked(self._environment, task, at, self._is_ahead))
        try:
            future = self._client.submit(_run_there, self._key, told, pure=False, key=self._key)
            came = self._came(future)
        except KeyboardInterrupt:
            self.kill()
            raise
        except NotThere:
            raise
        except Exception as error:
            raise NotThere(_gone(error)) from None
        if came.ran is None:
            raise NotThere(came.why)
        return came.ran

    def _came(self, future: Any) -> Came:
        """What has come of it. Raises `NotThere`."""
        try:
            while not future.done():
                if not self._is_wanted:
                    raise NotThere("it is no longer wanted")
                if self._client.status != "running":
                    raise NotThere("the scheduler is gone")
                time.sleep(_LOOK)
            if future.status != "finished":
                raise NotThere(f"it came to nothing on the cluster: {_end_of(future)}")
            came: Came = pickle.loads(future.result())
            return came
        finally:
            with suppress(Exception):
                future.release()

    def interrupt(self) -> None:
        """As `Session` has it; nothing of the chunk is kept."""
        self.kill()

    def kill(self) -> None:
        """End what runs there; from any thread."""
        self._is_wanted = False
        with suppress(Exception):
            self._client.cancel([self._key], force=True)

    def close(self) -> None:
        """Nothing stays there between chunks."""


# --- on a worker ------------------------------------------------------------------------------


def _run_there(key: str, told: bytes) -> bytes:
    """Run a chunk in a process of its own, which ends when nobody wants it any more."""
    with subprocess.Popen(
        [sys.executable, "-P", "-m", "wornpage.session.afar.there"], stdin=subprocess.PIPE, stdout=subprocess.PIPE,
        stderr=subprocess.PIPE, start_new_session=True,
    ) as process:  # fmt: skip
        try:
            came, faults = _waited_for(process, told, key)
        finally:
            process.terminate()  # and it ends its session
    if process.returncode:
        raise RuntimeError(faults.decode(errors="replace").strip().rpartition("\n")[2] or "it has been ended")
    return came


def _waited_for(process: subprocess.Popen[bytes], told: bytes, key: str) -> tuple[bytes, bytes]:
    asked: bytes | None = told
    while True:
        try:
            return process.communicate(asked, timeout=_LOOK_THERE)
        except subprocess.TimeoutExpired:
            asked = None
            if _is_unwanted(key):
                process.terminate()


def _is_unwanted(key: str) -> bool:
    """Whether whoever asked for it has said so, or is gone."""
    from distributed import get_worker

    task = get_worker().state.tasks.get(key)
    return task is None or task.state in {"cancelled", "released", "forgotten"}
