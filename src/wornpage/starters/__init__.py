"""Pages to begin from."""

from __future__ import annotations

from importlib.resources import files

KINDS = ("report", "manuscript", "notes", "blank")
LANGUAGES = {"python": KINDS, "r": ("report",)}
"""By language: the kinds of pages that there are in it."""


def text(kind: str, name: str, language: str = "python") -> str:
    """The page of this kind, with a title made from `name` and the user's own name where the system knows it."""
    title = name.replace("-", " ").replace("_", " ").strip().capitalize() or "Untitled"
    file = f"{kind}.md" if language == "python" else f"{kind}.{language}.md"
    page = (files("wornpage.starters") / file).read_text(encoding="utf-8")
    page = page.replace("BIBLIOGRAPHY", f"{name}.bib")
    return page.replace("TITLE", _quoted(title)).replace("AUTHOR", _quoted(_user()))


def companions(kind: str, name: str) -> dict[str, str]:
    """Files that stand beside a page of this kind, by name."""
    beside = files("wornpage.starters") / f"{kind}.bib"
    return {f"{name}.bib": beside.read_text(encoding="utf-8")} if beside.is_file() else {}


def _quoted(words: str) -> str:
    return '"' + words.replace("\\", "\\\\").replace('"', '\\"') + '"'


def _user() -> str:
    """The full name of whoever is logged in; else words that ask for one."""
    try:
        import os
        import pwd

        return pwd.getpwuid(os.getuid()).pw_gecos.split(",")[0] or "Your name"
    except (ImportError, KeyError):
        return "Your name"
