"""The ground on which values are told apart."""

from __future__ import annotations

from contextlib import suppress
from types import ModuleType
from typing import TYPE_CHECKING, Any, TypeVar

if TYPE_CHECKING:
    from typing import TypeGuard

T = TypeVar("T")

ATOMS = (int, float, complex, bool, str, bytes, type(None), type(Ellipsis), type(NotImplemented))
"""Types whose values are told by writing them, and hold nothing else."""


def is_a(value: object, kinds: type[T] | tuple[type[T], ...]) -> TypeGuard[T]:
    """Whether a value is of a kind, by its type alone: stand-ins and lazy objects are not asked what they say they are."""
    return issubclass(type(value), kinds)


def home_of(value: object) -> object:
    """The module that a value is, or comes from."""
    if is_a(value, ModuleType):
        return value.__name__
    try:
        return getattr(value, "__module__", None) or type(value).__module__
    except Exception:  # whatever an object has against being asked
        return type(value).__module__


def attributes_of(value: object) -> dict[str, object]:
    """What an object keeps in its dictionary and in its slots, as they lie there: nothing of its own is asked."""
    try:
        held = object.__getattribute__(value, "__dict__")
    except Exception:  # it has none, or something against being asked
        held = None
    found: dict[str, object] = dict(held) if isinstance(held, dict) else {}
    for base in type(value).__mro__:
        if "__slots__" in base.__dict__:
            found |= _in_slots(value, base)
    return found


def lasting_attributes(value: object) -> dict[str, object] | None:
    """The dictionary itself that an object keeps its attributes in; None if it has none, or others beside it."""
    try:
        held = object.__getattribute__(value, "__dict__")
    except Exception:
        return None
    bare = not any(base.__dict__.get("__slots__") for base in type(value).__mro__)
    return held if type(held) is dict and bare else None


def _in_slots(value: object, base: type) -> dict[str, object]:
    found: dict[str, object] = {}
    slots = base.__dict__["__slots__"]
    for slot in (slots,) if isinstance(slots, str) else slots:
        name = f"_{base.__name__.lstrip('_')}{slot}" if slot.startswith("__") and not slot.endswith("__") else slot
        member: Any = base.__dict__.get(name)
        if type(member).__name__ == "member_descriptor":
            with suppress(AttributeError):
                found[name] = member.__get__(value, base)
    return found


class NoFingerprint(Exception):
    """A value that cannot be compared: generators, connections, what lies about itself."""
