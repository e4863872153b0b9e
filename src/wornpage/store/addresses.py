"""Short addresses for plain data."""

from __future__ import annotations

import hashlib
import json


def digest(*parts: object) -> str:
    """A short address for plain data."""
    text = json.dumps(parts, ensure_ascii=False, separators=(",", ":"))
    return hashlib.blake2b(text.encode("utf-8", "surrogatepass"), digest_size=20).hexdigest()
