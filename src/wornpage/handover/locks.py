"""Lists of packages that others can install from: the open lock format of PyPA (PEP 751) and requirements files.

Where each package can be had, and its hash, is what the index of this machine's installer says; without an answer names and versions stand alone.
"""

from __future__ import annotations

import json
import subprocess
import tomllib
from collections.abc import Iterable, Mapping

from msgspec import Struct

from wornpage.handover.needs import Needs, Package
from wornpage.store.packages import normal
from wornpage.tree.version import VERSION

_PATIENCE = 180


class Release(Struct, frozen=True):
    """Where one version of a package can be had."""

    url: str
    sha256: str


def releases_of(packages: Iterable[Package], program: str) -> tuple[dict[str, Release], str]:
    """By name: where the index has the packages for the Python `program`; and why there are none, if there are none.

    Only descriptions are asked for; nothing is installed.
    """
    wanted = [f"{one.name}=={one.version}" for one in packages]
    if not wanted:
        return {}, ""
    command = [
        program, "-m", "pip", "install", "--dry-run", "--ignore-installed", "--no-deps", "--quiet", "--disable-pip-version-check",
        "--report", "-", *wanted,
    ]  # fmt: skip
    try:
        done = subprocess.run(command, capture_output=True, check=False, timeout=_PATIENCE, stdin=subprocess.DEVNULL)
    except (OSError, subprocess.TimeoutExpired) as error:
        return {}, str(error)
    if done.returncode:
        said = done.stderr.decode("utf-8", "replace").strip().splitlines()
        return {}, next((line for line in reversed(said) if "ERROR" in line), said[-1] if said else "pip failed")
    return dict(_told(done.stdout)), ""


def _told(report: bytes) -> Iterable[tuple[str, Release]]:
    for one in json.loads(report).get("install", ()):
        info = one["download_info"]
        digest = info.get("archive_info", {}).get("hashes", {}).get("sha256", "")
        if digest:
            yield normal(one["metadata"]["name"]), Release(info["url"], digest)


def as_pylock(needs: Needs, releases: Mapping[str, Release]) -> str:
    """The lock file."""
    major, minor = needs.python.split(".")[:2]
    lines = [
        'lock-version = "1.0"',
        f'created-by = "worn {VERSION}"',
        f'requires-python = "=={major}.{minor}.*"',
    ]
    for one in needs.packages:
        lines += ["", "[[packages]]", f"name = {_quoted(one.name)}", f"version = {_quoted(one.version)}"]
        release = releases.get(normal(one.name))
        if release is None:
            continue
        file = release.url.rpartition("/")[2]
        told = (
            f"{{name = {_quoted(file)}, url = {_quoted(release.url)}, hashes = {{sha256 = {_quoted(release.sha256)}}}}}"
        )
        lines.append(f"wheels = [{told}]" if file.endswith(".whl") else f"sdist = {told}")
    lines += ["", "[tool.wornpage]", f"python = {_quoted(needs.python)}", f"system = {_quoted(needs.system)}"]
    for name, held in (("libraries", needs.libraries), ("r", {one.name: one.version for one in needs.r})):
        if held:
            lines += [
                "",
                f"[tool.wornpage.{name}]",
                *(f"{_quoted(key)} = {_quoted(held[key])}" for key in sorted(held)),
            ]
    return "\n".join(lines) + "\n"


def surroundings_in(lock: str) -> dict[str, str]:
    """What a lock file of ours says beside packages: versions of Python, of R and of libraries of the system, by name. Raises `ValueError`."""
    told = tomllib.loads(lock).get("tool", {}).get("wornpage", {})
    found = {"Python": str(told["python"]), "system": str(told["system"])} if "python" in told else {}
    for name in ("libraries", "r"):
        held = told.get(name, {})
        found |= {str(key): str(value) for key, value in held.items()} if isinstance(held, dict) else {}
    return found


def surroundings_of(needs: Needs) -> dict[str, str]:
    """The same of what is here."""
    r = {one.name: one.version for one in needs.r}
    return {"Python": needs.python, "system": needs.system, **needs.libraries, **r}


def as_requirements(needs: Needs, releases: Mapping[str, Release]) -> str:
    """The same for installers that know no lock files."""
    lines = [f"# Python {needs.python}; what the page's chunks used"]
    lines += [f"# of the system: {name} {version}" for name, version in sorted(needs.libraries.items())]
    complete = all(normal(one.name) in releases for one in needs.packages)
    for one in needs.packages:
        digest = f" --hash=sha256:{releases[normal(one.name)].sha256}" if complete else ""
        lines.append(f"{one.name}=={one.version}{digest}")
    return "\n".join(lines) + "\n"


def _quoted(text: str) -> str:
    """A string of TOML."""
    return json.dumps(text, ensure_ascii=False)
