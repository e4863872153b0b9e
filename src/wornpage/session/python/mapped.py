"""Files mapped into memory: writing to them is told by nobody, so what they hold is compared."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from wornpage.session.python import hooks
from wornpage.session.python.descriptors import path_of


class Maps:
    """Files mapped into memory: writing to them is told by nobody, so what they hold is compared."""

    def __init__(self) -> None:
        self._alive: list[tuple[Any, str]] = []
        self._before: dict[str, str] = {}
        hooks.after_import("mmap", self._watch)

    def _watch(self, module: Any) -> None:
        import weakref

        alive = self._alive

        class mmap(module.mmap):  # type: ignore[misc]  # noqa: N801 - it goes by that name
            __slots__ = ()

            def __new__(cls, fileno: int, *arguments: object, **options: object) -> Any:
                made = super().__new__(cls, fileno, *arguments, **options)
                path = path_of(fileno) if fileno >= 0 else None
                if path is not None:
                    alive.append((weakref.ref(made), path))
                return made

        mmap.__module__ = "mmap"
        mmap.__qualname__ = "mmap"
        module.mmap = mmap

    def begin(self) -> None:
        """A chunk begins: this is what the mapped files hold now."""
        self._alive[:] = [(made, path) for made, path in self._alive if made() is not None]
        self._before = {path: self._held(path) for _, path in self._alive}

    def held(self) -> dict[int, str]:
        """Files that are mapped, by the identity of what maps them."""
        made = ((made(), path) for made, path in self._alive)
        return {id(one): path for one, path in made if one is not None}

    def changed(self) -> list[str]:
        """Mapped files that hold something else than when the chunk began, or than when they were opened."""
        for made, _ in self._alive:
            with suppress(ValueError, OSError, TypeError, AttributeError):
                made().flush()
        return [path for path, held in self._before.items() if self._held(path) != held]

    def _held(self, path: str) -> str:
        from wornpage.store.files import hashed

        try:
            return hashed(path)
        except OSError:
            return "absent"
