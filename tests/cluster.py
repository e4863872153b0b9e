"""A real scheduler with real workers on this machine."""

from __future__ import annotations

import re
import subprocess
import sys
import time
from pathlib import Path

from tests.support import FolderCase


class ClusterCase(FolderCase):
    """Tests that have a cluster, which ends with each of them."""

    def start(self, *arguments: str) -> subprocess.Popen[str]:
        """A part of the cluster, which ends with the test."""
        process = subprocess.Popen(
            [sys.executable, "-m", *arguments], cwd=self.folder, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True
        )  # fmt: skip
        self.addCleanup(self.end, process)
        return process

    def end(self, process: subprocess.Popen[str]) -> None:
        """End it, and all it has started."""
        process.kill()
        process.communicate()

    def address(self) -> str:
        """That of a scheduler with two workers."""
        found = self.folder / "scheduler.json"
        self.scheduler = self.start("distributed.cli.dask_scheduler", "--host", "127.0.0.1", "--port", "0", "--no-dashboard", "--scheduler-file", str(found))  # fmt: skip
        self.wait_for(found)
        address = str(re.search(r"tcp://[\d.:]+", found.read_text())[0])  # type: ignore[index]
        self.workers = [
            self.start(
                "distributed.cli.dask_worker",
                address,
                "--no-nanny",
                "--nthreads",
                "1",
                "--no-dashboard",
                "--local-directory",
                str(self.folder / f"worker{i}"),
            )
            for i in range(2)
        ]
        for i in range(2):
            self.wait_for(self.folder / f"worker{i}")
        return address

    def wait_for(self, path: Path) -> None:
        """Wait until a file is there and has something in it."""
        end = time.monotonic() + 60
        while not (path.exists() and path.stat().st_size):
            self.assertLess(time.monotonic(), end, f"no {path.name}")
            time.sleep(0.05)
