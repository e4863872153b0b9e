"""The ground on which values are told apart."""

from __future__ import annotations

from types import ModuleType
from typing import TYPE_CHECKING, TypeVar

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


class NoFingerprint(Exception):
    """A value that cannot be compared: generators, connections, what lies about itself."""
