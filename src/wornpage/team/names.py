"""Under what names things lie on a shelf."""

from __future__ import annotations

ROOT = "worn-1"
"""Under what all lies; another when what lies there changes its meaning."""


def runs_of(code: str) -> str:
    """What the names of all runs of a code begin with."""
    return f"{ROOT}/{code[:2]}/{code}/"


def reads_name(code: str, set_name: str) -> str:
    """Where it stands what a set of reads names."""
    return f"{runs_of(code)}{set_name}/reads"


def run_name(place: str, key: str) -> str:
    """Where a run lies that somebody has signed for its place: code, set of reads, what they were."""
    return f"{ROOT}/{place[:2]}/{place}.{key}"


def blob_name(address: str) -> str:
    """Where a blob lies."""
    return f"{ROOT}/blobs/{address[:2]}/{address}"
