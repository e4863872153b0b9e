"""A reader of reStructuredText, written from its specification alone: what a source says to its readers, and what is wrong with it.

It knows the constructs that sources of ours have, and complains of all it does not know.
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass, field

_ENUMERATED = re.compile(r"\(?(\d+|[A-Za-z]|[ivxlcdm]+|[IVXLCDM]+|#)[.)](?: |$)")
_BULLET = re.compile(r"[-+*•‣⁃](?: |$)")
_PUNCTUATION = re.compile(r"([!-/:-@[-`{-~])\1*$")
_FIELD = re.compile(r":(?![: ])(?:[^:\\\n]|\\.|:(?![ `]|$))*(?<! ):(?: |$)")
_EXPLICIT = re.compile(r"\.\.(?: |$)")
_DIRECTIVE = re.compile(r"\.\. (?:\|(?P<sub>[^|]+)\| )?(?P<name>[A-Za-z][\w-]*)::(?: (?P<argument>.*))?$")
_LITERAL = {"code-block", "math", "raw", "image", "code"}
_KNOWN = _LITERAL | {"table", "figure", "admonition", "note", "warning", "topic", "rubric", "contents", "container", "replace", "list-table"}  # fmt: skip
_OPENERS, _CLOSERS = "'\"([{<", "'\")]}>"
_ROLES = {"literal", "sup", "sub", "math", "code"}


@dataclass
class Read:
    """A source, read."""

    words: list[str] = field(default_factory=list)
    """What it says, piece by piece."""
    wrong: list[str] = field(default_factory=list)
    targets: set[str] = field(default_factory=set)
    numbers: dict[str, int] = field(default_factory=dict)
    """Of notes, in the order in which they are called."""
    asked: list[str] = field(default_factory=list)
    """Names that references lead to: of targets, `[#notes]` and `|pictures|`."""

    @property
    def text(self) -> str:
        """All that it says, without spaces."""
        return re.sub(r"\s+", "", "".join(self.words))


def read(source: str) -> Read:
    """Read a source; references must lead somewhere."""
    found = Read()
    _blocks([line.rstrip() for line in source.expandtabs(8).splitlines()], found)
    found.wrong += [f"nothing is called {name!r}" for name in found.asked if name not in found.targets]
    return found


# --- blocks -----------------------------------------------------------------------------------


def _indent(line: str) -> int:
    return len(line) - len(line.lstrip(" "))


def _deeper(lines: list[str], at: int, depth: int = 0) -> int:
    """Behind the lines that stand further in than `depth`, and the empty ones between them."""
    while at < len(lines) and (not lines[at] or _indent(lines[at]) > depth):
        at += 1
    while at > 0 and not lines[at - 1]:
        at -= 1
    return at


def _dedented(lines: list[str]) -> list[str]:
    depth = min((_indent(line) for line in lines if line), default=0)
    return [line[depth:] for line in lines]


def _blocks(lines: list[str], found: Read) -> None:
    at = 0
    while at < len(lines):
        line = lines[at]
        if not line:
            at += 1
            continue
        ends = _block(lines, at, found)
        if ends < len(lines) and lines[ends] and not _goes_on(line, lines[ends]):
            found.wrong.append(f"no empty line before {lines[ends]!r}")
        at = ends


def _goes_on(before: str, line: str) -> bool:
    """Whether a line may follow on a block at once: a further item, field, mark-up or title of the same kind."""
    return (
        any(kind.match(before) and kind.match(line) for kind in (_BULLET, _ENUMERATED, _FIELD, _EXPLICIT))
        or bool(_PUNCTUATION.match(line))
        or (bool(before) and not before.startswith((" ", ".", "|", "+")))
    )


def _block(lines: list[str], at: int, found: Read) -> int:
    """One block; where the lines go on."""
    line = lines[at]
    following = lines[at + 1] if at + 1 < len(lines) else ""
    if line.startswith(" "):
        ends = _deeper(lines, at)
        _blocks(_dedented(lines[at:ends]), found)
        return ends
    if _EXPLICIT.match(line):
        return _explicit(lines, at, found)
    if re.match(r"\+[-=]+\+", line):
        return _grid(lines, at, found)
    if re.match(r"=+(?: +=+)+$", line):
        return _simple(lines, at, found)
    if line.startswith("| ") or line == "|":
        return _line_block(lines, at, found)
    if _PUNCTUATION.match(line) and len(line) >= 4 and at + 2 < len(lines) and lines[at + 2] == line:
        _title(following.strip(), line, found)
        return at + 3
    if _PUNCTUATION.match(following) and (len(following) >= 4 or len(following) >= _width(line)):
        _title(line, following, found)
        return at + 2
    for kind in (_BULLET, _ENUMERATED, _FIELD):
        marked = kind.match(line)
        if marked and _is_item(kind, marked, following):
            return _item(lines, at, marked, kind, found)
    if following.startswith(" ") and not line.endswith("::"):
        ends = _deeper(lines, at + 1)
        found.words.append(_inline(line, found))
        _blocks(_dedented(lines[at + 1 : ends]), found)
        return ends
    return _paragraph(lines, at, found)


def _is_item(kind: re.Pattern[str], marked: re.Match[str], following: str) -> bool:
    """Whether what looks like an item's sign begins one: what follows an enumerator must stand further in, or be another item."""
    if kind is not _ENUMERATED:
        return True
    return not following or _indent(following) >= marked.end() or bool(_ENUMERATED.match(following))


def _item(lines: list[str], at: int, marked: re.Match[str], kind: re.Pattern[str], found: Read) -> int:
    if kind is _FIELD:
        found.words.append(marked[0].strip(": "))
    ends = at + 1
    while ends < len(lines) and (not lines[ends] or _indent(lines[ends]) >= (1 if kind is _FIELD else marked.end())):
        ends += 1
    while not lines[ends - 1]:
        ends -= 1
    rest = _dedented(lines[at + 1 : ends]) if kind is _FIELD else [one[marked.end() :] for one in lines[at + 1 : ends]]
    _blocks([lines[at][marked.end() :], *rest], found)
    return ends


def _paragraph(lines: list[str], at: int, found: Read) -> int:
    ends = at
    while ends < len(lines) and lines[ends]:
        if ends > at and lines[ends].startswith(" "):
            found.wrong.append(f"unexpected depth of {lines[ends]!r}")
        ends += 1
    text = "\n".join(lines[at:ends])
    if text.endswith("::") and not text.endswith("\\::"):
        found.words.append(_inline(text[:-1] if text != "::" else "", found))
        after = ends
        while after < len(lines) and not lines[after]:
            after += 1
        stop = _deeper(lines, after)
        found.words += _dedented(lines[after:stop])
        return max(stop, ends)
    if text.startswith(">>> "):
        found.wrong.append(f"a session of an interpreter: {text!r}")
    found.words.append(_inline(text, found))
    return ends


def _title(title: str, line: str, found: Read) -> None:
    if len(line) < _width(title):
        found.wrong.append(f"the line of {title!r} is too short")
    found.words.append(_inline(title, found))


def _line_block(lines: list[str], at: int, found: Read) -> int:
    ends = at
    while ends < len(lines) and (lines[ends].startswith("|") or (lines[ends].startswith(" ") and ends > at)):
        ends += 1
    parts: list[str] = []
    for line in lines[at:ends]:
        if line.startswith("|"):
            parts.append(line[1:].strip())
        else:
            parts[-1] += "\n" + line.strip()
    found.words += [_inline(part, found) for part in parts]
    return ends


# --- explicit mark-up -------------------------------------------------------------------------


def _explicit(lines: list[str], at: int, found: Read) -> int:
    line, ends = lines[at], _deeper(lines, at + 1)
    if line == ".." and (at + 1 >= len(lines) or not lines[at + 1]):
        return at + 1
    if target := re.match(r"\.\. _(?:`(.+)`|([^:]+)):$", line):
        found.targets.add(target[1] or target[2])
        return at + 1
    if note := re.match(r"\.\. (\[#[\w-]+\])(?: |$)", line):
        found.targets.add(note[1])
        _blocks([line[note.end() :], *_dedented(lines[at + 1 : ends])], found)
        return ends
    directive = _DIRECTIVE.match(line)
    if directive:
        _directive(directive, _dedented(lines[at + 1 : ends]), found)
    return ends  # else a comment


def _directive(directive: re.Match[str], body: list[str], found: Read) -> None:
    name, argument = directive["name"], directive["argument"] or ""
    if name not in _KNOWN:
        found.wrong.append(f"no directive is called {name!r}")
    if directive["sub"]:
        found.targets.add(f"|{directive['sub']}|")
    while body and re.match(r":[\w-]+:(?: |$)", body[0]):
        body = body[1:]
    if body and body[0] and argument:
        found.wrong.append(f"no empty line below the options of {directive[0]!r}")
    while body and not body[0]:
        body = body[1:]
    if name in _LITERAL:
        found.words += body if name not in {"raw", "image"} else []
        return
    if name not in {"contents", "figure", "container"}:
        found.words.append(_inline(argument, found))
    _blocks(body, found)


# --- tables -----------------------------------------------------------------------------------


def _width(line: str) -> int:
    return len(line) + sum(unicodedata.east_asian_width(one) in "WF" for one in line)


def _wide(line: str) -> str:
    """A line in which letters of double width take two columns."""
    return "".join(one + "\0" * (unicodedata.east_asian_width(one) in "WF") for one in line)


def _grid(lines: list[str], at: int, found: Read) -> int:
    ends = at
    while ends < len(lines) and lines[ends] and lines[ends][0] in "+|":
        ends += 1
    drawn = [_wide(line) for line in lines[at:ends]]
    if len({len(line) for line in drawn}) > 1 or not drawn[-1].startswith("+"):
        found.wrong.append("a table whose lines are not alike long")
        return ends
    for cell in _cells_of(drawn, found):
        _blocks([line.rstrip() for line in _dedented([one.rstrip() for one in cell])], found)
    return ends


def _cells_of(drawn: list[str], found: Read) -> list[list[str]]:
    """Each rectangle that the lines enclose, row by row."""
    cells, covered = list[list[str]](), set[tuple[int, int]]()
    for top in range(len(drawn) - 1):
        for left in range(len(drawn[0]) - 1):
            if drawn[top][left] != "+" or (top, left) in covered or drawn[top][left + 1] not in "-=":
                continue
            corner = _corner(drawn, top, left)
            if corner is None:  # lines that cross above a cell of several columns
                continue
            bottom, right = corner
            covered |= {(row, column) for row in range(top + 1, bottom) for column in range(left + 1, right)}
            cells.append([drawn[row][left + 1 : right].replace("\0", "") for row in range(top + 1, bottom)])
    for row, line in enumerate(drawn):
        if any(one not in "+-=|" and (row, column) not in covered for column, one in enumerate(line)):
            found.wrong.append(f"a table that is not closed: {line!r}")
    return cells


def _corner(drawn: list[str], top: int, left: int) -> tuple[int, int] | None:
    """The lower right corner of the smallest rectangle that begins at a corner."""
    for right in range(left + 1, len(drawn[0])):
        if drawn[top][right] not in "+-=":
            return None
        if drawn[top][right] != "+":
            continue
        for bottom in range(top + 1, len(drawn)):
            if drawn[bottom][right] not in "+|" or drawn[bottom][left] not in "+|":
                break
            edge = drawn[bottom][left : right + 1]
            if edge[0] == edge[-1] == "+" and set(edge) <= set("+-="):
                return bottom, right
    return None


def _simple(lines: list[str], at: int, found: Read) -> int:
    borders = [k for k in range(at, len(lines)) if lines[k] == lines[at]]
    last = borders[2] if len(borders) > 2 else borders[-1]
    spans = [found_at.span() for found_at in re.finditer("=+", lines[at])]
    for line in lines[at:last]:
        if line == lines[at]:
            continue
        for place, (begins, _) in enumerate(spans):
            stop = spans[place + 1][0] if place + 1 < len(spans) else len(line)
            if line[stop - 1 : stop].strip() and place + 1 < len(spans):
                found.wrong.append(f"text runs over the columns of {line!r}")
            found.words.append(_inline(line[begins:stop].strip(), found))
    return last + 1


# --- running text -----------------------------------------------------------------------------


def _inline(text: str, found: Read) -> str:
    """What running text says."""
    said, at = "", 0
    while at < len(text):
        one = text[at]
        if one == "\\":
            said += "" if at + 1 < len(text) and text[at + 1] in " \n" else text[at + 1 : at + 2]
            at += 2
            continue
        for begins, act in _CONSTRUCTS:
            opened = begins.match(text, at)
            if opened and _may_begin(text, at, opened):
                made, stop = act(text, at, opened, found)
                said, at = said + made, stop
                break
        else:
            name = re.compile(r"[^\W_]+(?:[-._+:][^\W_]+)*__?(?![\w])").match(text, at)
            if name and (at == 0 or not re.match(r"\w", text[at - 1])):
                found.asked.append(name[0].rstrip("_"))
                said, at = said + name[0].rstrip("_"), name.end()
                continue
            said, at = said + one, at + 1
    return said


def _may_begin(text: str, at: int, opened: re.Match[str]) -> bool:
    """Whether mark-up may begin here: behind a space or an opening sign, before anything but a space, and not quoted."""
    before, after = text[at - 1 : at], text[opened.end() : opened.end() + 1]
    if before and not before.isspace() and before not in "-:/'\"<([{":
        return False
    if not opened[0].endswith(("_", "|")) and (not after or after.isspace()):
        return False
    return not (before and before in _OPENERS and after == _CLOSERS[_OPENERS.index(before)])


def _until(text: str, at: int, mark: str, takes_escapes: bool = True, also: str = "") -> int:
    """Where mark-up ends; -1 for nowhere. Its end stands behind anything but a space, and before a space or a closing sign."""
    place = at
    while place < len(text):
        if takes_escapes and text[place] == "\\":
            place += 2
            continue
        is_space = text[place - 1].isspace() and not (takes_escapes and text[place - 2] == "\\")
        if text.startswith(mark, place) and place > at and not is_space:
            behind = text[place + len(mark) : place + len(mark) + 1]
            if not behind or behind.isspace() or behind in "'\")]}>-/\\:.,;!?" + also:
                return place
        place += 1
    return -1


def _plain(text: str) -> str:
    return re.sub(r"\\([ \n]|.)", lambda found: found[1].strip(" \n"), text, flags=re.DOTALL)


def _ends(text: str, at: int, mark: str, found: Read, takes_escapes: bool = True) -> int:
    stop = _until(text, at, mark, takes_escapes)
    if stop < 0:
        found.wrong.append(f"mark-up that begins with {mark!r} never ends: {text[max(0, at - 3) : at + 20]!r}")
        return len(text)
    return stop


def _literal(text: str, at: int, opened: re.Match[str], found: Read) -> tuple[str, int]:
    stop = _ends(text, opened.end(), "``", found, takes_escapes=False)
    return text[opened.end() : stop], stop + 2


def _looking(text: str, at: int, opened: re.Match[str], found: Read) -> tuple[str, int]:
    stop = _ends(text, opened.end(), opened[0], found)
    return _plain(text[opened.end() : stop]), stop + len(opened[0])


def _role(text: str, at: int, opened: re.Match[str], found: Read) -> tuple[str, int]:
    if opened[1] not in _ROLES:
        found.wrong.append(f"no role is called {opened[1]!r}")
    stop = _ends(text, opened.end(), "`", found)
    if text[stop + 1 : stop + 2] == ":" and re.match(r":\w+:", text[stop + 1 :]):
        found.wrong.append("a role before and behind")
    inner = text[opened.end() : stop]
    return inner if opened[1] == "math" else _plain(inner), stop + 1


def _phrase(text: str, at: int, opened: re.Match[str], found: Read) -> tuple[str, int]:
    stop = _until(text, opened.end(), "`", also="_")
    if stop < 0 or text[stop + 1 : stop + 3] != "__":
        found.wrong.append(f"a phrase that leads nowhere: {text[at : at + 30]!r}")
        return text[at + 1 :], len(text)
    inner = re.fullmatch(r"(.*?)\s*<((?:\\.|[^<>\\])+)>", text[opened.end() : stop], re.DOTALL)
    if inner is None:
        found.wrong.append(f"a phrase without an address: {text[at : stop + 1]!r}")
        return text[at:stop], stop + 3
    if re.search(r"(?<!\\)_$", inner[2]):
        found.asked.append(inner[2][:-1])
    return _plain(inner[1]), stop + 3


def _named(text: str, at: int, opened: re.Match[str], found: Read) -> tuple[str, int]:
    name = opened[0].removesuffix("_")
    found.asked.append(name)
    number = str(found.numbers.setdefault(name, len(found.numbers) + 1)) if name.startswith("[") else ""
    behind = text[opened.end() : opened.end() + 1]
    if behind and re.match(r"\w", behind):
        found.wrong.append(f"{opened[0]!r} before {behind!r}")
    return number, opened.end()


_CONSTRUCTS = (
    (re.compile(r"``"), _literal), (re.compile(r":([A-Za-z]+):`"), _role), (re.compile(r"`"), _phrase), (re.compile(r"\*\*"), _looking),
    (re.compile(r"\*"), _looking), (re.compile(r"\[#[\w-]+\]_"), _named), (re.compile(r"\|[^\s|][^|\n]*\|"), _named),
)  # fmt: skip
