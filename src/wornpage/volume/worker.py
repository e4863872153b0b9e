"""A process that drafts pages of a volume, one after the other."""

from __future__ import annotations

from wornpage.plan.nursery import Nursery
from wornpage.press.worker import Told, run
from wornpage.volume.work import BoundPage, DraftReport, Nothing, draft_page


def _draft(job: Nothing, asked: BoundPage, nursery: Nursery, told: Told) -> DraftReport:
    return draft_page(asked, None, told)


if __name__ == "__main__":
    run(Nothing, BoundPage, _draft)
