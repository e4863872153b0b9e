"""Libraries of the system that a page's packages load: no list of packages holds them, so they are told beside it."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
from collections.abc import Mapping
from pathlib import Path

from wornpage.handover.needs import Needs
from wornpage.store.packages import normal

_PATIENCE = 120
_LOADED = r"""
import importlib, json, os, re, sys
from importlib.metadata import packages_distributions
wanted = set(sys.argv[1:])
for package, owners in packages_distributions().items():
    if wanted & {re.sub(r"[-_.]+", "-", owner).lower() for owner in owners} and package.isidentifier():
        try:
            importlib.import_module(package)
        except BaseException:
            pass
try:
    with open("/proc/self/maps") as maps:
        files = {line.split(None, 5)[5].strip() for line in maps if ".so" in line and len(line.split(None, 5)) > 5}
except OSError:
    files = set()
own = {os.path.realpath(place) + os.sep for place in (sys.prefix, sys.base_prefix, *sys.path) if place}
files = {os.path.realpath(file) for file in files}
libc = os.confstr("CS_GNU_LIBC_VERSION") if hasattr(os, "confstr") else ""
print(json.dumps([sorted(file for file in files if not file.startswith(tuple(own))), libc or ""]))
"""
_R = "cat(extSoftVersion()[['BLAS']], La_library(), sep = '\\n')"
_PARTS = re.compile(r"(?:ld-linux.*|ld-musl.*|lib(?:c|m|pthread|dl|rt|util|resolv|mvec|anl|nss_\w+|nsl))\.so")
"""Parts of the library of C itself, which have one version."""
_NAME = re.compile(r"(?P<name>.+?)(?:[-.](?P<first>\d[\d.]*))?\.so(?:\.(?P<version>[\d.]+))?$")


def libraries_of(needs: Needs) -> dict[str, str]:
    """Versions of the libraries of the system that the page's packages load, by name; nothing where the system does not tell."""
    wanted = [normal(one.name) for one in needs.packages if one.used_by]
    found: dict[str, str] = {}
    try:
        files, libc = json.loads(_said([needs.program, "-I", "-c", _LOADED, *wanted]))
        name, _, version = str(libc).partition(" ")
        found = {**({name: version} if version else {}), **_named(files)}
    except (ValueError, TypeError):
        pass
    program = shutil.which("Rscript") if needs.r else None
    if program:
        found |= _named(_said([program, "--vanilla", "-e", _R]).splitlines())
    return dict(sorted(found.items()))


def different(before: Mapping[str, str], now: Mapping[str, str]) -> list[str]:
    """What is another, in words."""
    names = sorted(name for name in {*before, *now} if before.get(name) != now.get(name))
    return [f"{name} {now.get(name, 'absent')}, where it was {before.get(name, 'absent')}" for name in names]


def _named(files: list[str]) -> dict[str, str]:
    """Names and versions that are in the names of files."""
    found: dict[str, str] = {}
    for file in files:
        name = Path(file).name
        match = _NAME.fullmatch(name)
        if match is not None and not _PARTS.match(name):
            found[match["name"]] = match["version"] or match["first"] or "present"
    return found


def _said(command: list[str]) -> str:
    """What a program says; nothing where it fails."""
    try:
        done = subprocess.run(command, capture_output=True, check=False, timeout=_PATIENCE, stdin=subprocess.DEVNULL)
    except (OSError, subprocess.TimeoutExpired):
        return ""
    return done.stdout.decode("utf-8", "replace").strip() if done.returncode == 0 else ""
