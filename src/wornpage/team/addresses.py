"""What is wrong with the address of a team's store, seen before anything is asked."""

from __future__ import annotations

import re

from wornpage.settings.levels import Settings
from wornpage.tree.problem import Problem

SCHEMES = ("s3",)
"""What addresses begin with that are no folders."""
_BUCKET = re.compile(r"[A-Za-z0-9][\w.-]{1,254}")
_ENDPOINT = re.compile(r"https?://(?:[\w.-]+|\[[0-9a-fA-F:]+\])(?::\d{1,5})?(?:/[\w./~-]*)?")


def check_store(settings: Settings) -> list[Problem]:
    """Addresses that lead nowhere, and passwords in them."""
    asked, place = settings.page.store, settings.place("store")
    kind, sign, rest = asked.at.partition("://")
    told = ", ".join(f"`{one}://bucket/prefix`" for one in SCHEMES)
    problems = []
    if sign and kind not in SCHEMES:
        problems.append(Problem(place, f"a team's store cannot be at {kind}://.", f"Write a folder, or {told}."))
    elif sign and not is_bucket(rest.partition("/")[0]):
        problems.append(Problem(place, f"{asked.at!r} names no bucket.", f"Write {told}."))
    if asked.endpoint and not is_endpoint(asked.endpoint):
        what = "`endpoint` cannot be that." if "@" in asked.endpoint else f"`endpoint` cannot be {asked.endpoint!r}."
        hint = "It is the address of a server, such as `https://files.example:9000`, without a name or a password."
        problems.append(Problem(settings.place("store", "endpoint"), what, hint))
    if not asked.at and (asked.endpoint or asked.region):
        problems.append(Problem(place, "`store` does not say where it is.", f"Write `at:` with a folder, or {told}."))
    return problems


def is_bucket(name: str) -> bool:
    """Whether a bucket can be called so."""
    return _BUCKET.fullmatch(name) is not None


def is_endpoint(address: str) -> bool:
    """Whether a server can be reached so."""
    return _ENDPOINT.fullmatch(address) is not None
