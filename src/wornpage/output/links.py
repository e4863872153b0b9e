"""Addresses that a page may lead to."""

from __future__ import annotations


def is_safe(target: str) -> bool:
    """Whether a link leads to a place or a document, and runs nothing."""
    scheme = target.partition(":")[0].strip().lower() if ":" in target.split("/", maxsplit=1)[0] else ""
    return scheme in {"", "http", "https", "mailto", "tel", "ftp", "doi"}
