"""What can be told of SQL by reading it."""

from __future__ import annotations

import hashlib

from wornpage.session.program.language import PlainCode
from wornpage.session.sql.statements import fleeting, normal_form, words_in


class SqlCode(PlainCode):
    """How SQL is read."""

    def normal_form(self, code: str) -> str:
        """A hash of its tokens: comments and layout do not count."""
        return hashlib.blake2b(
            "\0".join(normal_form(code)).encode("utf-8", "surrogatepass"), digest_size=16
        ).hexdigest()

    def mentioned(self, code: str) -> frozenset[str]:
        """Words that may be tables or values of the page."""
        return words_in(code)

    def clock(self, code: str) -> str:
        """A function that gives another value each time."""
        return fleeting(code)
