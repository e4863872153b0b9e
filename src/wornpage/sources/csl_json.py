"""CSL-JSON as programs write it, brought into one shape: names in lists, dates in numbers, all else as text."""

from __future__ import annotations

import re
from typing import Any

from wornpage.sources.bibtex import date

NAMES = {
    "author", "editor", "translator", "container-author", "collection-editor", "composer", "director", "illustrator",
    "interviewer", "original-author", "recipient", "reviewed-author", "editorial-director", "chair", "compiler", "contributor",
    "curator", "executive-producer", "guest", "host", "narrator", "organizer", "performer", "producer", "script-writer",
    "series-creator",
}  # fmt: skip
DATES = {"issued", "accessed", "event-date", "original-date", "submitted", "available-date"}
_PARTS = ("family", "given", "literal", "suffix", "dropping-particle", "non-dropping-particle")


def normalised(item: dict[str, object]) -> tuple[dict[str, object], list[str]]:
    """An entry's data in one shape, and the fields that made no sense and are left out."""
    made: dict[str, object] = {}
    odd: list[str] = []
    for field, value in item.items():
        if field == "id" or value is None or value == "":
            continue
        kept: object
        if field in NAMES:
            kept = _names(value)
        elif field in DATES:
            kept = _date(value)
        else:
            kept = _text(value)
        if kept:
            made[field] = kept
        elif value not in ([], {}):
            odd.append(field)
    made.setdefault("type", "document")
    return made, odd


def _text(value: object) -> str:
    """A text; the first of a list, as some resolvers write titles."""
    if isinstance(value, list) and value and isinstance(value[0], str):
        value = value[0]
    if isinstance(value, bool) or not isinstance(value, str | int | float):
        return ""
    return str(value)


def _names(value: object) -> list[dict[str, Any]]:
    listed = value if isinstance(value, list) else [value]
    made = []
    for one in listed:
        if isinstance(one, str) and one.strip():
            made.append({"literal": one.strip()})
        elif isinstance(one, dict):
            name = {part: str(one[part]) for part in _PARTS if one.get(part)}
            if not name.get("family") and not name.get("literal"):
                whole = str(one.get("name") or name.get("given") or "")
                name = {"literal": whole} if whole else {}
            if name:
                made.append(name)
    return made


def _date(value: object) -> dict[str, object]:
    if isinstance(value, str | int) and not isinstance(value, bool):
        return date(str(value))
    if not isinstance(value, dict):
        return {}
    parts = [kept for part in _listed(value.get("date-parts")) if (kept := _numbers(part))]
    if parts:
        made: dict[str, object] = {"date-parts": parts}
        return made | ({"circa": True} if value.get("circa") else {})
    said = value.get("raw") or value.get("literal") or value.get("season")
    return date(str(said)) if said else {}


def _listed(value: object) -> list[object]:
    return value if isinstance(value, list) else []


def _numbers(part: object) -> list[int]:
    """Year, month and day, as far as they are numbers that can be."""
    made: list[int] = []
    for place, number in enumerate(part[:3] if isinstance(part, list) else [part]):
        if not re.fullmatch(r"-?\d{1,4}", str(number).strip()):
            break
        if place and not 1 <= int(number) <= (24 if place == 1 else 31):
            break
        made.append(int(number))
    return made
