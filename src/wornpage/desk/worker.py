"""A process that presses what readers wish, one after the other."""

from __future__ import annotations

from wornpage.desk.work import Bench, Nothing, Task
from wornpage.press.worker import run

if __name__ == "__main__":
    run(Nothing, Task, Bench().press)
