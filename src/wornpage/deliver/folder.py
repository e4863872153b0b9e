"""A folder of this machine, or one that is mounted."""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

from wornpage.deliver.places import LIST, Change, changes, listed, listing
from wornpage.tree.problem import UsageError


class Folder:
    """The folder at a path."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def change(self, files: dict[str, bytes]) -> Change:
        """As `Place` has it."""
        before = listed(self._read(LIST))
        there = {name: data for name in {*files, *before} if (data := self._read(name)) is not None}
        return changes(files, there, before)

    def put(self, files: dict[str, bytes]) -> None:
        """All files are written under other names first; only then they take their places, the list last."""
        change = self.change(files)
        whole = {**files, LIST: listing(files)}
        parts: list[tuple[Path, Path]] = []
        before: dict[Path, bytes | None] = {}
        if folder := next((name for name in whole if self._target(name).is_dir()), ""):
            raise UsageError(f"{self.path / folder} is a folder, and {folder!r} is to be put there.")
        try:
            for name, data in whole.items():
                target = self._target(name)
                if self._read(name) == data:
                    continue
                target.parent.mkdir(parents=True, exist_ok=True)
                part = target.with_name(f".{target.name}.{os.getpid()}.part")
                parts.append((part, target))
                part.write_bytes(data)
            gone = [self._target(name) for name in change.went]
            targets = [*(target for _, target in parts), *gone]
            before = {target: target.read_bytes() if target.exists() else None for target in targets}
            for part, target in parts:
                part.replace(target)
            for target in gone:
                target.unlink(missing_ok=True)
        except OSError as error:
            _put_back(before)
            raise UsageError(f"{self.path} cannot be written: {error.strerror or error}.") from None
        finally:
            for part, _ in parts:
                with suppress(OSError):
                    part.unlink()

    def _target(self, name: str) -> Path:
        target = self.path / name
        if not target.resolve().is_relative_to(self.path.resolve()):
            raise UsageError(f"{name!r} would lie outside of {self.path}.")
        return target

    def _read(self, name: str) -> bytes | None:
        try:
            return self._target(name).read_bytes()
        except (FileNotFoundError, NotADirectoryError, IsADirectoryError):
            return None
        except OSError as error:
            raise UsageError(f"{self.path / name} cannot be read: {error.strerror}.") from None


def _put_back(before: dict[Path, bytes | None]) -> None:
    """Files as they were."""
    for target, data in before.items():
        with suppress(OSError):
            if data is None:
                target.unlink(missing_ok=True)
            elif not target.exists() or target.read_bytes() != data:
                target.write_bytes(data)
