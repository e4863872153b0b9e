"""A process that presses editions, one after the other. They share the session that holds what they have in common."""

from __future__ import annotations

from wornpage.editions.work import Job, Report, Task, press_edition
from wornpage.press.worker import Hands, run


def _press(job: Job, task: Task, hands: Hands) -> Report:
    return press_edition(job, task, hands.nursery, hands.told)


if __name__ == "__main__":
    run(Job, Task, _press)
