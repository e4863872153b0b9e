"""A folder that several people can reach, such as one that is mounted from a server."""

from __future__ import annotations

import os
import secrets
import shutil
import time
from contextlib import suppress
from pathlib import Path

from wornpage.team.shelf import Away

_PIECE = 8_000_000


class Folder:
    """The folder at a path, which must be there: one that is made anew would hide that nothing is mounted."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def names(self, below: str) -> dict[str, int]:
        """As `Shelf` has it."""
        self._is_there()
        found: dict[str, int] = {}
        root = self.path / below
        for place, _, names in os.walk(root):
            for name in names:
                with suppress(OSError):
                    path = Path(place, name)
                    found[path.relative_to(root).as_posix()] = path.stat().st_size
        return found

    def has(self, name: str) -> bool:
        """As `Shelf` has it."""
        self._is_there()
        return (self.path / name).exists()

    def get(self, name: str) -> bytes | None:
        """As `Shelf` has it."""
        try:
            return (self.path / name).read_bytes()
        except (FileNotFoundError, NotADirectoryError):
            return None
        except OSError as error:
            raise Away(error.strerror or str(error)) from None

    def fetch(self, name: str, path: Path, until: float) -> bool:
        """As `Shelf` has it."""
        try:
            with (self.path / name).open("rb") as source, path.open("wb") as target:
                while piece := source.read(_PIECE):
                    target.write(piece)
                    if time.monotonic() > until:
                        raise Away("it is slower than running the code")
        except FileNotFoundError:
            return False
        except OSError as error:
            raise Away(error.strerror or str(error)) from None
        return True

    def put(self, name: str, data: bytes | Path) -> None:
        """As `Shelf` has it."""
        self._is_there()
        target = self.path / name
        part = target.with_name(f".{target.name[:80]}.{secrets.token_hex(6)}.part")
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            if isinstance(data, Path):
                shutil.copyfile(data, part)
            else:
                part.write_bytes(data)
            part.replace(target)
        except OSError as error:
            raise Away(error.strerror or str(error)) from None
        finally:
            with suppress(OSError):
                part.unlink()

    def _is_there(self) -> None:
        try:
            os.scandir(self.path).close()
        except OSError as error:
            raise Away(f"{self.path}: {error.strerror or error}") from None
