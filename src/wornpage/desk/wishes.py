"""What somebody wishes: a page with values, as some outputs."""

from __future__ import annotations

import json

from blake3 import blake3
from msgspec import Struct


class Wish(Struct, frozen=True):
    """Two wishes that are the same are one."""

    page: str
    """The key of the offer."""
    given: dict[str, object]
    """All its values, as written: texts, or lists of texts."""
    kinds: tuple[str, ...] = ("html",)

    @property
    def place(self) -> str:
        """Where what comes of it is kept, whatever the kind: a name that tells nothing and leads nowhere else."""
        return _named(self.page, self.given)

    @property
    def key(self) -> str:
        """The wish itself."""
        return f"{self.place}-{'-'.join(self.kinds)}"


def _named(page: str, given: dict[str, object]) -> str:
    text = json.dumps([page, given], sort_keys=True, ensure_ascii=True)
    return str(blake3(text.encode()).hexdigest()[:24])
