"""A process that presses editions, one after the other. They share the session that holds what they have in common."""

from __future__ import annotations

from wornpage.editions.work import Job, Task, press_edition
from wornpage.press.worker import run

if __name__ == "__main__":
    run(Job, Task, press_edition)
