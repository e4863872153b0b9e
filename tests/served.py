"""Real servers on loopback for tests: one program that speaks several protocols over a folder."""

from __future__ import annotations

import socket
import subprocess
import sys
import time
import unittest
from collections.abc import Callable
from pathlib import Path


def free_port() -> int:
    """A port that nobody listens at."""
    with socket.create_server(("127.0.0.1", 0)) as one:
        port: int = one.getsockname()[1]
        return port


def serve(case: unittest.TestCase, protocol: str, folder: Path, *options: str) -> int:
    """Serve a folder until the test is over; the port."""
    port = free_port()
    program = str(Path(sys.executable).with_name("rclone"))
    command = [program, "serve", protocol, "--addr", f"127.0.0.1:{port}", *options, str(folder)]
    server = subprocess.Popen(command, cwd=folder.parent, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    case.addCleanup(server.wait)
    case.addCleanup(server.kill)
    wait_for(lambda: socket.create_connection(("127.0.0.1", port), 1).close())
    return port


def wait_for(act: Callable[[], object]) -> None:
    """Try until it goes well; ten seconds at most."""
    for _ in range(200):
        try:
            act()
            return
        except OSError:
            time.sleep(0.05)
    act()
