"""What an insert begins with: the names it gives to a file, or the list of what the file is repeated for."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from wornpage.session.python.driver import Driver

_MOST = 5_000
"""More repetitions than a page can hold."""


def show_items(value: Any, label: str, binds: str, driver: Driver) -> None:
    """Tell what an insert stands for.

    For `each`, every item of `value` gets a hidden name, so that each repetition reads its own item alone;
    otherwise `value` is the file, or None, and the values that tell the insert from others.
    """
    if binds == "each":
        items = _each(value, label, driver)
    else:
        file, values = value
        items = [{"name": " ".join(_words(one) for one in values), "file": file or ""}]
    driver.show({"kind": "items", "items": items})


def _each(value: Any, label: str, driver: Driver) -> list[dict[str, str]]:
    stem = "_" + "".join(letter if letter.isalnum() else "_" for letter in label)
    items = []
    for place, item in enumerate(value):
        if place >= _MOST:
            raise ValueError(f"a file is repeated {_MOST:,} times at most")
        hidden = f"{stem}_{place}"
        driver.tracker.names[hidden] = item
        items.append({"name": _words(item) or str(place + 1), "hidden": hidden})
    return items


def _words(item: object) -> str:
    """What an item is called: itself if it is a word or a number, otherwise by the first thing in it."""
    for _ in range(3):
        if isinstance(item, dict) and item:
            item = next(iter(item.values()))
        elif isinstance(item, (list, tuple)) and item:
            item = item[0]
    if isinstance(item, str):
        return item
    kind = type(item).__module__
    if isinstance(item, (bool, int, float)) or kind in {"datetime", "numpy", "decimal", "fractions"}:
        return str(item)
    if kind.startswith("pandas.") and hasattr(item, "isoformat"):
        return str(item).removesuffix(" 00:00:00")
    return str(getattr(item, "name", ""))
