"""Where a keeper is asked, and which one: of this user, this program, these surroundings. Imports next to nothing."""

from __future__ import annotations

import os
import re
import sys
from pathlib import Path

_STARTING = re.compile(r"PYTHON|LC_|LANG|TZ$|LD_|MALLOC_|GLIBC_")
"""Variables that a program goes by when it starts, and does not look at again."""
SWITCH = "WORN_WARM"
"""The variable that says `yes` or `no` whatever the user's settings say."""
_SETTING = re.compile(r"^warm[ \t]*:[ \t]*[\"']?([^\s\"'#]*)", re.MULTILINE)
_SAID = {"yes": "yes", "true": "yes", "on": "yes", "no": "no", "false": "no", "off": "no"}


def wanted() -> str:
    """What the user's settings say of keepers: `yes`, `no`, nothing, or something else that is a mistake."""
    said = os.environ.get(SWITCH, "")
    if not said:
        try:
            with settings_file().open(encoding="utf-8") as file:
                found = _SETTING.search(file.read(100_000))
        except (OSError, UnicodeDecodeError):
            return ""
        said = found[1] if found else ""
    return _SAID.get(said.lower(), said)


def settings_file() -> Path:
    """The user's own settings."""
    return Path(os.environ.get("XDG_CONFIG_HOME") or Path("~/.config").expanduser()) / "wornpage" / "settings.yaml"


def folder() -> Path:
    """Where keepers of this user are asked: a folder that nobody else may look into."""
    base = os.environ.get("XDG_RUNTIME_DIR") or os.environ.get("XDG_CACHE_HOME")
    return Path(base or Path("~/.cache").expanduser()) / "wornpage"


def address() -> Path:
    """The socket of the keeper for this program in these surroundings."""
    from hashlib import blake2b

    told = sorted(f"{name}={value}" for name, value in os.environ.items() if _STARTING.match(name))
    told += [sys.executable, sys.version, str(sys.flags), __file__, str(os.getuid())]
    name = blake2b("\0".join(told).encode("utf-8", "surrogateescape"), digest_size=8).hexdigest()
    return folder() / f"{name}.warm"


def is_own(path: Path) -> bool:
    """Whether a folder is the user's alone."""
    try:
        found = path.lstat()
    except OSError:
        return False
    return found.st_uid == os.getuid() and (found.st_mode & 0o170077) == 0o040000
