"""The proof that a stranger can do it: a new environment with what the page needs, in which it runs from nothing."""

from __future__ import annotations

import subprocess
from collections.abc import Mapping
from importlib.metadata import version
from pathlib import Path

from wornpage.handover.locks import Release, as_requirements
from wornpage.handover.needs import Needs
from wornpage.tree.problem import UsageError

_PATIENCE = 1_800
_HASHES = ("xxhash", "blake3")
"""What sessions name values and files by, where it is there: names of another kind would make all look different."""


def build(needs: Needs, releases: Mapping[str, Release], folder: Path) -> Path:
    """A new environment in `folder`; the program that its Python is. Raises `UsageError` where that cannot be."""
    place = folder / "environment"
    _run([needs.program, "-m", "venv", str(place)], "a new environment cannot be made")
    program = place / "bin" / "python"
    program = program if program.exists() else place / "Scripts" / "python.exe"
    wanted = folder / "requirements.txt"
    wanted.write_text(as_requirements(needs, releases), encoding="utf-8")
    hashes = [f"{name}=={version(name)}" for name in _HASHES] if needs.has_hashes else []
    install = [
        str(program), "-m", "pip", "install", "--quiet", "--no-deps", "--disable-pip-version-check", "--requirement", str(wanted)
    ]  # fmt: skip
    if needs.packages:
        _run(install, "what the page needs cannot be installed")
    if hashes:
        _run([*install[:-2], *hashes], "what sessions name values by cannot be installed")
    return program


def _run(command: list[str], what: str) -> None:
    try:
        done = subprocess.run(command, capture_output=True, check=False, timeout=_PATIENCE, stdin=subprocess.DEVNULL)
    except (OSError, subprocess.TimeoutExpired) as error:
        raise UsageError(f"{what}: {error}") from None
    if done.returncode:
        said = (done.stderr or done.stdout).decode("utf-8", "replace").strip().splitlines()
        errors = [line for line in said if "error" in line.lower()] or said
        raise UsageError(f"{what}: {(errors or ['nothing is said of why'])[-1]}")
