"""What should not leave: keys and passwords, paths of one machine, columns that name people, answers in hidden chunks, files that others lack.

Only what is written is told, with its place; nothing is guessed away, and nothing is changed.
"""

from __future__ import annotations

import csv
import re
import subprocess
from collections.abc import Generator, Iterator, Sequence
from contextlib import suppress
from pathlib import Path, PurePath

from wornpage.check.finding import KEYS, SHARING, Finding
from wornpage.plan import manifest
from wornpage.press import examine
from wornpage.settings import Settings
from wornpage.showing.files import READ, said_in
from wornpage.source import Page, read_page
from wornpage.tree import nodes as n
from wornpage.tree.columns import sign_between
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

_KEYS = (
    ("a private key", re.compile(r"-----BEGIN (?:[A-Z]+ )*PRIVATE KEY-----")),
    ("a password in an address", re.compile(r"\b[a-z][a-z0-9+.-]*://[^\s:/@\"'{}]+:[^\s:/@\"'{}]{3,}@")),
    ("a password", re.compile(r"(?i)\b(?:password|passwort|passwd|pwd|kennwort|mot_de_passe|contrase[nñ]a|wachtwoord)\b[\"']?\s*[:=]\s*[\"'][^\"'\s]{4,}[\"']")),
    ("a key", re.compile(r"(?i)\b(?:api|access|secret|auth|private)[_-]?(?:key|token|secret)\b[\"']?\s*[:=]\s*[\"'][\w+/=.-]{12,}[\"']")),
    ("a key", re.compile(r"\b(?:AKIA[0-9A-Z]{16}|gh[pousr]_[A-Za-z0-9]{36,}|xox[abp]-[A-Za-z0-9-]{20,}|sk-[A-Za-z0-9_-]{32,})\b")),
    ("a signed token", re.compile(r"\beyJ[\w-]{10,}\.[\w-]{10,}\.[\w-]{10,}\b")),
)  # fmt: skip
_PATH = re.compile(
    r"(?<![\w/.:])(?:/(?:home|Users|root|mnt|media|Volumes)/[\w.-]+(?:/[\w.-]+)*|[A-Z]:\\(?:Users|Dokumente)\\[^\s\"'<>|]+)"
)
_PEOPLE = re.compile(
    r"(?i)^(?:(?:full|first|last|family|given|sur|user)[ _-]?names?|(?:e[ _-]?)?mail(?:s|[ _-]?address)?|phones?|tele(?:ph|f)o(?:n|ne|no)|mobile|address(?:e|es)?|street|strasse|straße|rue|calle|"
    r"postcode|zip|plz|birth(?:[ _-]?date|day)?|geburts(?:tag|datum)|date[ _-]?of[ _-]?birth|dob|nachname|vorname|pr[ée]nom|nom|apellidos?|iban|account|ssn|passport|patient(?:[ _-]?name)?)$"
)
"""Heads of columns that are often people's."""
_MAIL = re.compile(r"[\w.+-]+@[\w-]+(?:\.[\w-]+)+")
_ANSWER = re.compile(
    r"(?i)\b(?:answers?|solutions?|l[öo]sung(?:en)?|antwort(?:en)?|solution|r[ée]ponses?|respuestas?|soluci[óo]n|oplossing|soluzione|svar)\b"
)
_PACKED = re.compile(r"data:[\w/+.-]+;base64,[A-Za-z0-9+/=]+")
_MUCH = 200_000
_SAMPLE = 2_000
"""Rows of a table that are looked at."""
_LARGEST = 20_000_000
"""Bytes of a file that is looked through."""


def before_sharing(path: Path, name: str) -> list[Finding]:
    """What of a page, of the data it last read and of its outputs should not leave unseen. Raises `PageError`."""
    page = read_page(path, name)
    settings, _, _ = examine(page)
    found = [*_in_text(name, page.text), *_hidden(page, settings)]
    for file in page.files:
        found += _in_file(file.path, file.span.file)
    read = [one for one in manifest.files_read(path) if Path(one).is_file()]
    for one in dict.fromkeys(read):
        shown = _shown(Path(one), path)
        found += [*_in_file(Path(one), shown), *_people(Path(one), shown)]
    last = manifest.last(path)
    for _, output in last.outputs if last else ():
        found += _in_output(Path(output), _shown(Path(output), path))
    found += _ignored(path, [path, *(file.path for file in page.files), *map(Path, read)])
    return list(dict.fromkeys(found))


def keys_in_output(name: str, data: bytes) -> list[Finding]:
    """What in a file that readers get looks like a key or a password: in what it says, and in what it is written with."""
    found = list(_keys_in(name, _as_text(data)))
    said = "\n".join(_said(name, data))
    told = {one.problem.what for one in found}
    return found + [
        _finding(Span(name, 1), one.problem.what, one.problem.hint, KEYS)
        for one in _keys_in(name, said)
        if one.problem.what not in told
    ]


def _as_text(data: bytes) -> str:
    """A file as text; nothing for one that is none."""
    return "" if b"\0" in data[:_MUCH] else data.decode("utf-8", "replace")


def _said(name: str, data: bytes) -> list[str]:
    """What a file says to its readers; nothing where it is of a kind that is not read."""
    suffix = PurePath(name).suffix.lower()
    try:
        return said_in(suffix, data) if suffix in READ else []
    except ValueError:
        return []


def _keys_in(name: str, text: str) -> Iterator[Finding]:
    """What in a text looks like a key or a password."""
    for number, line in enumerate(_unpacked(text).split("\n"), 1):
        for what, pattern in _KEYS:
            for found in pattern.finditer(line):
                hint = "Take it from the environment, and change it: it has been written down."
                yield _finding(Span(name, number, found.start() + 1), f"this looks like {what}.", hint, KEYS)


def _unpacked(text: str) -> str:
    """A text without the pictures in it, through which looking takes long."""
    return _PACKED.sub("", text) if len(text) > _MUCH else text


def _finding(span: Span, what: str, hint: str = "", rule: str = SHARING) -> Finding:
    return Finding(rule, Problem(span, what, hint, Severity.WARNING))


def _shown(path: Path, page: Path) -> str:
    try:
        return str(path.resolve().relative_to(page.parent.resolve()))
    except ValueError:
        return str(path)


# --- what stands in texts ---------------------------------------------------------------------


def _in_file(path: Path, name: str) -> Iterator[Finding]:
    """What stands in a file of text; others are not looked into."""
    data = yield from _data_of(path, name)
    with suppress(UnicodeDecodeError):
        yield from _in_text(name, data.decode("utf-8"))


def _data_of(path: Path, name: str) -> Generator[Finding, None, bytes]:
    """What is in a file; of one that is too large only that is told."""
    try:
        size = path.stat().st_size
        if size <= _LARGEST:
            return path.read_bytes()
    except OSError:
        return b""
    yield _finding(Span(name, 1), f"this file has {size / 1e6:,.0f} MB and was not looked through.")
    return b""


def _in_text(name: str, text: str) -> Iterator[Finding]:
    text = _unpacked(text)
    yield from _keys_in(name, text)
    yield from _paths_in(name, text)


def _paths_in(name: str, text: str) -> Iterator[Finding]:
    for number, line in enumerate(text.split("\n"), 1):
        for found in _PATH.finditer(line):
            yield _finding(
                Span(name, number, found.start() + 1), f"{found[0]!r} is a path of one machine, and may name its user."
            )


def _in_output(path: Path, name: str) -> Iterator[Finding]:
    """What an output holds: also one of another kind than text, such as a document."""
    data = yield from _data_of(path, name)
    yield from keys_in_output(name, data)
    yield from _paths_in(name, _unpacked(_as_text(data)))


# --- what pages hide --------------------------------------------------------------------------


def _hidden(page: Page, settings: Settings) -> Iterator[Finding]:
    tells = settings.page.press.html.origins
    for chunk in (node for node in walk(page.blocks) if isinstance(node, n.Chunk)):
        options = settings.of(chunk).options
        if options.show not in {"nothing", "output"}:
            continue
        if _ANSWER.search(f"{chunk.label.replace('-', ' ')}\n{_remarks(chunk.code)}"):
            what = f"the hidden chunk `{chunk.label}` seems to hold an answer; whoever gets the page's source reads it."
            yield _finding(chunk.span, what)
        elif tells and options.show == "nothing":
            what = f"the code of the hidden chunk `{chunk.label}` is told in the HTML, since `origins` is set."
            yield _finding(chunk.span, what, "Take `origins: yes` away to keep it.")


def _remarks(code: str) -> str:
    return "\n".join(line for line in code.split("\n") if line.lstrip().startswith(("#", "--")))


# --- data -------------------------------------------------------------------------------------


def _people(path: Path, name: str) -> Iterator[Finding]:
    """Columns of a table that name or reach people, by their heads or by what stands in them."""
    if path.suffix.lower() not in {".csv", ".tsv"} or path.stat().st_size > _LARGEST:
        return
    try:
        with path.open(encoding="utf-8-sig", newline="") as file:
            first = file.readline()
            file.seek(0)
            rows = csv.reader(file, delimiter=sign_between(first))
            heads = next(rows, [])
            sample = [row for _, row in zip(range(_SAMPLE), rows, strict=False)]
    except (OSError, UnicodeDecodeError, csv.Error):
        return
    for place, head in enumerate(heads):
        cells = [row[place] for row in sample if place < len(row) and row[place]]
        mails = sum(bool(_MAIL.fullmatch(cell.strip())) for cell in cells)
        if mails:
            yield _finding(
                Span(name, 1), f"the column {head!r} holds {mails} addresses of mail in the first {len(sample)} rows."
            )
        elif _PEOPLE.match(head.strip()) and cells:
            yield _finding(Span(name, 1), f"the column {head!r} may name people, or say where to reach them.")


# --- version control --------------------------------------------------------------------------


def _ignored(page: Path, files: Sequence[Path]) -> Iterator[Finding]:
    """Files that the page needs and version control leaves out."""
    folder = page.resolve().parent
    names = [str(one.resolve()) for one in files]
    try:
        done = subprocess.run(
            ["git", "-C", str(folder), "check-ignore", "-z", "--stdin"], input="\0".join(names).encode("utf-8", "surrogateescape"), capture_output=True, check=False,
        )  # fmt: skip
    except OSError:
        return
    for one in filter(None, done.stdout.decode("utf-8", "surrogateescape").split("\0")):
        what = "version control leaves this file out, and the page needs it: who gets the repository alone cannot press it."
        yield _finding(Span(_shown(Path(one), page), 1), what)
