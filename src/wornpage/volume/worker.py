"""A process that drafts pages of a volume, one after the other."""

from __future__ import annotations

from wornpage.press.worker import Hands, run
from wornpage.volume.work import BoundPage, DraftReport, Nothing, draft_page


def _draft(job: Nothing, asked: BoundPage, hands: Hands) -> DraftReport:
    return draft_page(asked, None, hands.told)


if __name__ == "__main__":
    run(Nothing, BoundPage, _draft)
