"""One record against another: what differs, in words, chunk by chunk."""

from __future__ import annotations

import difflib
from collections.abc import Sequence
from itertools import zip_longest
from typing import Any


def differences(before: dict[str, Any], now: dict[str, Any]) -> list[str]:
    """What differs between two records as plain data; empty if they agree."""
    found = [f"{what}: {before.get(key)} → {now.get(key)}" for key, what in _FACTS if before.get(key) != now.get(key)]
    for key, what in _MAPPINGS:
        found += _mappings(what, before.get(key, {}), now.get(key, {}))
    if before.get("fonts") and now.get("fonts"):  # else one of them is of outputs that choose none
        found += _mappings("font", before["fonts"], now["fonts"])
    found += _marks(before.get("marks", ()), now.get("marks", ()))
    old = {chunk["label"]: chunk for chunk in before.get("chunks", ())}
    new = {chunk["label"]: chunk for chunk in now.get("chunks", ())}
    for label in dict.fromkeys([*old, *new]):
        if label not in new or label not in old:
            found.append(f"chunk `{label}`: {'is not there any more' if label in old else 'is new'}")
        else:
            if old[label].get("seed") != new[label].get("seed"):
                found.append(
                    f"chunk `{label}`: its seed: {old[label].get('seed') or 'none'} → {new[label].get('seed') or 'none'}"
                )
            found += [f"chunk `{label}`: {line}" for line in _shown(old[label]["shown"], new[label]["shown"])]
    return found


_FACTS = (("worn", "Worn Page"), ("python", "Python"), ("system", "system"), ("page", "the page's text"))


_MAPPINGS = (
    ("packages", "library"),
    ("data", "data"),
    ("given", "given"),
    ("texts", "inserted file"),
    ("settings", "setting"),
)


def _marks(before: Sequence[dict[str, str]], now: Sequence[dict[str, str]]) -> list[str]:
    found = []
    for old, new in zip_longest(before, now):
        if old is None or new is None or old["expression"] != new["expression"]:
            words = " → ".join(one["expression"] if one else "none" for one in (old, new))
            found.append(f"value mark: {words}")
        elif old["value"] != new["value"]:
            found.append(f"value mark `{new['expression']}`: {old['value']} → {new['value']}")
        elif old["seed"] != new["seed"]:
            found.append(
                f"value mark `{new['expression']}`: its seed: {old['seed'] or 'none'} → {new['seed'] or 'none'}"
            )
    return found


def _mappings(what: str, before: dict[str, str], now: dict[str, str]) -> list[str]:
    found = []
    for name in sorted({*before, *now}):
        if before.get(name) != now.get(name):
            found.append(f"{what} {name}: {before.get(name, 'not there')} → {now.get(name, 'not there')}")
    return found


def _shown(before: list[dict[str, str]], now: list[dict[str, str]]) -> list[str]:
    found = []
    for old, new in zip_longest(before, now):
        if old is None or new is None:
            one = old or new
            found.append(f"shows one {one['kind']} {'less' if new is None else 'more'}")
        elif old["digest"] != new["digest"]:
            found.append(f"its {new['kind']} differs{_difference(old['words'], new['words'])}")
    return found


def _difference(before: str, now: str) -> str:
    if before == now:
        return ""
    lines = [
        line
        for line in difflib.unified_diff(before.splitlines(), now.splitlines(), lineterm="", n=0)
        if not line.startswith(("---", "+++", "@@"))
    ]
    return "".join(f"\n    {line[:160]}" for line in lines[:8])
