"""What a shell is left with, as items by name: each variable, each function, its options, its traps, where it stands.

Two more say what cannot be asked for by name: which names there are, and what programs see.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from pathlib import Path

_DECLARED = re.compile(r"^declare -([-\w]+) ([A-Za-z_]\w*)(?:=|$)", re.MULTILINE)
_FUNCTION = re.compile(r"^([^\s()]+) \(\) ?\n", re.MULTILINE)
_ITS_OWN = re.compile(
    r"BASH\w*|FUNCNAME|PIPESTATUS|DIRSTACK|GROUPS|SHELLOPTS|PPID|U?ID|EUID|RANDOM|SRANDOM|SECONDS|EPOCH\w+|LINENO|_|OPTIND|"
    r"OPTERR|OLDPWD|PWD|SHLVL|COMP_\w+|HOSTNAME|HOSTTYPE|MACHTYPE|OSTYPE|COLUMNS|LINES|__worn_\w+|GIVEN_\w+"
)
_WHOLE = ("options", "traps", "umask")
_UNSET = "unset"
"""Of a variable that an empty shell has, and that has been taken away."""
USUAL = "set -eE\n"
"""The options that a shell begins with: a command that fails ends the chunk."""


def read_state(place: Path, home: Path) -> dict[str, str]:
    """The items that a shell has written into `place` at its end; none where it came to no end. `home` is the page's folder."""
    found: dict[str, str] = {}
    if not (place / "options").exists():
        return found
    for name, text in _cut(_DECLARED, _text(place / "variables"), 2):
        if not _ITS_OWN.fullmatch(name):
            found[f"variable {name}"] = text
    for name, text in _cut(_FUNCTION, _text(place / "functions"), 1):
        if not name.startswith("__worn_") and name != "trap":
            found[f"function {name}"] = text
    found["exported"] = "".join(text for item, text in sorted(found.items()) if is_exported(text))
    found["names"] = "\n".join(sorted(found))
    for name in _WHOLE:
        found[name] = _text(place / name)
    folder = Path(_text(place / "folder"))
    found["folder"] = str(folder.relative_to(home)) if folder.is_relative_to(home) else str(folder)
    return found


def is_exported(declaration: str) -> bool:
    """Whether programs see a variable."""
    return declaration.startswith("declare ") and "x" in declaration.split(" ", 2)[1]


def differing(now: Mapping[str, str], before: Mapping[str, str], empty: Mapping[str, str]) -> dict[str, str]:
    """Items that are not as they were `before`; an empty text for those that are again as in an `empty` shell."""
    changed: dict[str, str] = {}
    for item in sorted({*now, *before}):
        text = now.get(item, _UNSET if item in empty else "")
        if text != before.get(item, ""):
            changed[item] = "" if text == empty.get(item) else text
    return changed


def as_script(items: Mapping[str, str]) -> str:
    """A script that makes a shell be as `items` tell, but for its options."""
    lines = [text for item, text in sorted(items.items()) if item.startswith("function ")]
    for item, text in sorted(items.items()):
        if item.startswith("variable "):
            lines.append(f"unset -v {item.split()[1]}" if text == _UNSET else text.rstrip("\n"))
    lines.append(items.get("traps", ""))
    if items.get("umask"):
        lines.append(f"umask {items['umask'].strip()}")
    if items.get("folder"):
        lines.append(f"cd -- {_quoted(items['folder'])}")
    return "\n".join(lines) + "\n"


def _cut(pattern: re.Pattern[str], text: str, group: int) -> list[tuple[str, str]]:
    """What begins at each match, up to the next, by one of its groups."""
    matches = list(pattern.finditer(text))
    ends = [*(match.start() for match in matches[1:]), len(text)]
    return [(match[group], text[match.start() : end]) for match, end in zip(matches, ends, strict=True)]


def _quoted(path: str) -> str:
    return "'" + path.replace("'", "'\\''") + "'"


def _text(path: Path) -> str:
    try:
        return path.read_text(encoding="utf-8", errors="surrogateescape")
    except OSError:
        return ""
