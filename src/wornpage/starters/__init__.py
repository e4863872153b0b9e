"""Pages to begin from."""

from __future__ import annotations

from importlib.resources import files
from pathlib import Path

KINDS = ("report", "manuscript", "slides", "notes", "blank", "latex")
ENDINGS = {"latex": ".tex"}
"""Of kinds that are not written in Markdown."""
VOLUME = "volume"
"""A folder of pages, which are bound as one work."""
LANGUAGES = {"python": KINDS, "r": ("report",)}
"""By language: the kinds of pages that there are in it."""


def text(kind: str, name: str, language: str = "python") -> str:
    """The page of this kind, with a title made from `name` and the user's own name where the system knows it."""
    title = name.replace("-", " ").replace("_", " ").strip().capitalize() or "Untitled"
    ending = ENDINGS.get(kind, ".md")
    file = f"{kind}{ending}" if language == "python" else f"{kind}.{language}{ending}"
    page = (files("wornpage.starters") / file).read_text(encoding="utf-8")
    if kind == "latex":
        from wornpage.output.tex.letters import text as in_latex

        return page.replace("TITLE", in_latex(title)).replace("AUTHOR", in_latex(_user()))
    page = page.replace("BIBLIOGRAPHY", f"{name}.bib")
    return page.replace("TITLE", _quoted(title)).replace("AUTHOR", _quoted(_user()))


def volume_files(name: str) -> dict[str, str]:
    """The files of a volume to begin from, by their paths in its folder."""
    root = files("wornpage.starters") / VOLUME
    title = name.replace("-", " ").replace("_", " ").strip().capitalize() or "Untitled"
    found = {}
    for place in (root, root / "chapters"):
        for one in sorted(place.iterdir(), key=lambda each: each.name):
            if one.name.endswith((".md", ".yaml")):
                text = (
                    one.read_text(encoding="utf-8").replace("TITLE", _quoted(title)).replace("AUTHOR", _quoted(_user()))
                )
                found[one.name if place is root else f"chapters/{one.name}"] = text
    return found


IGNORED = """# what Worn Page keeps between pressings
.worn/
# reports of comparisons
*.compared.html
# what else comes of pages, where it is pressed anew wherever it is needed: take the signs away
# *.html
# *.pdf
# *.docx
"""
"""For version control: what it leaves out."""
ATTRIBUTES = """# pages have the same line ends everywhere
*.md text eol=lf
*.bib text eol=lf
*.yaml text eol=lf
# outputs are the same bytes again, and are compared by `worn compare`
*.pdf binary
*.docx binary
*.pptx binary
*.xlsx binary
*.epub binary
"""
"""For version control: what kind of files there are."""


def version_control(folder: Path) -> dict[str, str]:
    """The files for version control of a folder, by name; none where it, or the repository around it, has any already."""
    files = {".gitignore": IGNORED, ".gitattributes": ATTRIBUTES}
    above = (folder, *folder.parents)
    root = next((at for at, place in enumerate(above) if (place / ".git").exists()), 0)
    known = any((place / name).exists() for place in above[: root + 1] for name in files)
    return {} if known else files


def companions(kind: str, name: str) -> dict[str, str]:
    """Files that stand beside a page of this kind, by name."""
    if kind == "latex":
        from wornpage.output.tex.hosted import PACKAGE, package_file

        return {f"{PACKAGE}.sty": package_file()}
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
