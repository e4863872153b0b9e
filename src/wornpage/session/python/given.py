"""`given`: the page's parameters as chunks read them."""

from __future__ import annotations

from typing import Any, NoReturn


class Given:
    """Read-only attributes, one a given; `-` in a name reads as `_`."""

    __slots__ = ("_seen", "_values")

    def __init__(self, values: dict[str, object] | None = None, **more: object) -> None:
        object.__setattr__(self, "_seen", set())
        known = {name.replace("-", "_"): _taken_over(value) for name, value in (values or {}).items()}
        object.__setattr__(self, "_values", {**known, **more})

    def _replace(self, values: dict[str, object]) -> None:
        """Stand for other values, in a session that was forked."""
        self.__init__(values)  # type: ignore[misc]

    def __getattr__(self, name: str) -> object:
        if name.startswith("__"):
            raise AttributeError(name)
        values = object.__getattribute__(self, "_values")
        object.__getattribute__(self, "_seen").add(name)
        if name not in values:
            known = ", ".join(sorted(values)) or "none"
            raise AttributeError(f"this page has no given value {name!r}; there are: {known}")
        return values[name]

    def __setattr__(self, name: str, value: object) -> NoReturn:
        raise AttributeError(f"given.{name} cannot be assigned: given values come from outside the page")

    def __delattr__(self, name: str) -> NoReturn:
        raise AttributeError(f"given.{name} cannot be deleted")

    def _begin(self) -> None:
        """A chunk begins: nothing has been read yet."""
        object.__getattribute__(self, "_seen").clear()

    def _take_all(self) -> None:
        """Somebody may have read any of them."""
        object.__getattribute__(self, "_seen").update(object.__getattribute__(self, "_values"))

    def _taken(self) -> list[str]:
        """The given values read since."""
        return sorted(object.__getattribute__(self, "_seen"))

    def __dir__(self) -> list[str]:
        self._take_all()
        return sorted(object.__getattribute__(self, "_values"))

    def __repr__(self) -> str:
        self._take_all()
        pairs = ", ".join(f"{k}={v!r}" for k, v in object.__getattribute__(self, "_values").items())
        return f"given({pairs})"


def _taken_over(value: object) -> object:
    """A value as the near end sent it; a day comes as its ISO form."""
    if isinstance(value, dict) and set(value) == {"date"}:
        import datetime

        return datetime.date.fromisoformat(value["date"])
    return GivenList(value) if isinstance(value, list) else value


class GivenList(list[object]):
    """A list that was given: it cannot be changed, since the next chunk is given the same."""

    __slots__ = ()

    def _refuse(self, *parts: object, **more: object) -> NoReturn:
        raise TypeError("a list of given values cannot be changed; make one of your own first: list(given.…)")

    append = extend = insert = remove = pop = clear = sort = reverse = _refuse
    __setitem__ = __delitem__ = __iadd__ = __imul__ = _refuse

    def __reduce__(self) -> Any:
        return GivenList, (list(self),)
