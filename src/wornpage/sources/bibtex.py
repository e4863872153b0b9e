"""BibTeX and BibLaTeX entries as CSL-JSON."""

from __future__ import annotations

import logging
import re
from typing import Any

from wornpage.sources.latex_text import decoded, plain, verbatim
from wornpage.tree.problem import near_miss

_TYPES = {
    "article": "article-journal", "book": "book", "mvbook": "book", "booklet": "pamphlet", "inbook": "chapter",
    "bookinbook": "chapter", "incollection": "chapter", "collection": "book", "mvcollection": "book",
    "inproceedings": "paper-conference", "conference": "paper-conference", "proceedings": "book", "mvproceedings": "book",
    "phdthesis": "thesis", "mastersthesis": "thesis", "thesis": "thesis", "techreport": "report", "report": "report",
    "manual": "report", "misc": "document", "online": "webpage", "electronic": "webpage", "www": "webpage",
    "dataset": "dataset", "software": "software", "unpublished": "manuscript", "patent": "patent", "periodical": "periodical",
    "suppperiodical": "article-journal", "inreference": "entry-encyclopedia", "reference": "book", "map": "map",
    "letter": "personal_communication", "review": "review", "legislation": "legislation", "video": "motion_picture",
}  # fmt: skip
_NAMES = {
    "author": "author", "editor": "editor", "translator": "translator", "bookauthor": "container-author",
    "organization": "", "holder": "author",
}  # fmt: skip
_PLAIN = {
    "isbn": "ISBN", "issn": "ISSN", "volume": "volume", "edition": "edition",
    "chapter": "chapter-number", "version": "version", "language": "language", "langid": "language", "pagetotal": "number-of-pages",
    "volumes": "number-of-volumes", "eid": "number",
}  # fmt: skip
_TEXTS = {
    "title": "title", "shorttitle": "title-short", "publisher": "publisher", "school": "publisher", "institution": "publisher",
    "address": "publisher-place", "location": "publisher-place", "series": "collection-title", "note": "note",
    "abstract": "abstract", "keywords": "keyword", "annotation": "annote", "eventtitle": "event-title", "venue": "event-place",
    "library": "archive", "howpublished": "medium",
}  # fmt: skip
_MONTHS = {name: n for n, name in enumerate("jan feb mar apr may jun jul aug sep oct nov dec".split(), 1)}
_GENRES = {"phdthesis": "PhD thesis", "mastersthesis": "Master’s thesis", "techreport": "Technical report"}
_KINDS = {
    "phdthesis": "PhD thesis",
    "mathesis": "Master’s thesis",
    "techreport": "Technical report",
    "resreport": "Research report",
}
_PARTICLES = re.compile(r"[a-zà-ž]")


def from_bibtex(text: str) -> dict[str, object]:
    """Entries (key, line, data) and problems (line, column, what, hint), as plain data."""
    from bibtexparser.entrypoint import parse_string
    from bibtexparser.middlewares import (
        MonthIntMiddleware,
        RemoveEnclosingMiddleware,
        ResolveStringReferencesMiddleware,
    )

    logging.getLogger("bibtexparser").setLevel(logging.CRITICAL)
    library = parse_string(text, parse_stack=[ResolveStringReferencesMiddleware()])
    unknown = [
        _unknown(entry, field) for entry in library.entries for field in entry.fields if _is_macro(str(field.value))
    ]
    for layer in (RemoveEnclosingMiddleware(), MonthIntMiddleware()):
        library = layer.transform(library)
    problems = [*(_problem(block, text) for block in library.failed_blocks), *unknown]
    raw = {entry.key: entry for entry in library.entries}
    entries = []
    for entry in library.entries:
        fields = {field.key.lower(): str(field.value) for field in entry.fields}
        _inherit(fields, raw)
        line = (entry.start_line or 0) + 1
        kind = entry.entry_type.lower()
        if kind not in _TYPES and kind not in {"xdata", "set"}:
            hint = near_miss(kind, _TYPES)
            problems.append([line, 1, f"{entry.key!r} is of an unknown type {kind!r}; it is set as a document.", hint])
        if kind not in {"xdata", "set"}:
            entries.append([entry.key, line, _entry(kind, fields)])
    return {"entries": entries, "problems": sorted(problems)}


def _problem(block: Any, text: str) -> list[object]:
    """What is wrong with a block that could not be read, where it goes wrong."""
    line = (block.start_line or 0) + 1
    name = type(block).__name__
    if name == "DuplicateBlockKeyBlock":
        return [
            line,
            1,
            f"the key {block.key!r} stands here a second time.",
            "The first entry is used; give this one another key.",
        ]
    if name == "DuplicateFieldKeyBlock":
        twice = ", ".join(sorted(block.duplicate_keys))
        return [line, 1, f"a field stands twice in this entry: {twice}.", "The entry is left out; keep one of them."]
    found = re.match(r"\s*@\s*(\w+)\s*\{\s*([^,\s}]*)", text.split("\n", block.start_line)[-1])
    key = found[2] if found else ""
    what = (
        f"the entry {key!r} cannot be read: a brace or a quote is opened and never closed."
        if key
        else "this cannot be read."
    )
    return [line, 1, what, "It is left out; close what is open, and end each field with a comma."]


def _is_macro(value: str) -> bool:
    """Whether a value is neither in braces or quotes, nor a number, nor a month."""
    return bool(re.fullmatch(r"[^\d\s{}\"#,][^\s{}\"#,]*", value.strip())) and value.strip().lower()[:3] not in _MONTHS


def _unknown(entry: Any, field: Any) -> list[object]:
    line = field.start_line if field.start_line is not None else entry.start_line or 0
    what = f"{field.value!r} is the name of no text that `@string` defines; it is taken as it stands."
    return [line + 1, 1, what, f"Put it in braces if it is a text: {field.key} = {{{field.value}}}."]


def _inherit(fields: dict[str, str], raw: dict[str, Any]) -> None:
    """Fields of the entry named by `crossref` that this one does not have; its title is that of the container."""
    parent = raw.get(fields.get("crossref", "")) or raw.get(fields.get("xdata", ""))
    if parent is None:
        return
    for field in parent.fields:
        name = field.key.lower()
        name = "booktitle" if name == "title" and "crossref" in fields else name
        fields.setdefault(name, str(field.value))


def _entry(kind: str, fields: dict[str, str]) -> dict[str, object]:
    data: dict[str, object] = {"type": _TYPES.get(kind, "document")}
    for name, key in _PLAIN.items():
        if fields.get(name, "").strip():
            data[key] = plain(fields[name])
    for name, key in (("doi", "DOI"), ("url", "URL")):
        if fields.get(name, "").strip():
            data[key] = verbatim(_URL.sub(r"\1", fields[name].strip()))
    for name, key in _TEXTS.items():
        if fields.get(name, "").strip():
            data.setdefault(key, decoded(fields[name]))
    for name, key in _NAMES.items():
        if key and fields.get(name, "").strip():
            data[key] = names(fields[name])
    if "subtitle" in fields and "title" in data:
        data["title"] = f"{data['title']}: {decoded(fields['subtitle'])}"
    if fields.get("editortype") == "translator" and "editor" in data:
        data["translator"] = data.pop("editor")
    if match := _URL.fullmatch(fields.get("howpublished", "").strip()):
        data.pop("medium", None)
        data.setdefault("URL", verbatim(match[1]))
    if "edition" in data:
        data["edition"] = _edition(str(data["edition"]))
    _container(kind, fields, data)
    _numbers(kind, fields, data)
    _dates(fields, data)
    genre = _KINDS.get(fields.get("type", "").lower()) or fields.get("type") or _GENRES.get(kind)
    if genre:
        data["genre"] = decoded(genre)
    if "organization" in fields and decoded(fields["organization"]) != data.get("container-title"):
        data.setdefault("publisher", decoded(fields["organization"]))
    if data["type"] == "document" and "URL" in data and "medium" not in data:
        data["type"] = "webpage"
    return data


_URL = re.compile(r"\\url\s*\{(.*)\}")
_ORDINALS = "first second third fourth fifth sixth seventh eighth ninth tenth eleventh twelfth".split()


def _edition(text: str) -> str:
    """The number of an edition, if it is written as `2nd`, `2nd ed.` or `Second`; other words stay."""
    match = re.fullmatch(
        r"(\d+)(?:st|nd|rd|th|\.)?(?:\s+ed(?:ition|n)?\.?)?|(\w+)(?:\s+ed(?:ition|n)?\.?)?", text.strip(), re.IGNORECASE
    )
    if match and match[1]:
        return match[1]
    if match and match[2].lower() in _ORDINALS:
        return str(_ORDINALS.index(match[2].lower()) + 1)
    return text


def _container(kind: str, fields: dict[str, str], data: dict[str, object]) -> None:
    title = fields.get("journaltitle") or fields.get("journal") or fields.get("booktitle") or fields.get("maintitle")
    if title and not (data["type"] == "book" and decoded(title) == data.get("title")):
        data["container-title"] = decoded(title)
    if "shortjournal" in fields:
        data["container-title-short"] = decoded(fields["shortjournal"])
    if data["type"] == "webpage" and "organization" in fields and "container-title" not in data:
        data["container-title"] = decoded(fields["organization"])
    if data["type"] == "paper-conference" and title and "event-title" not in data:
        data["event-title"] = data["container-title"]


def _numbers(kind: str, fields: dict[str, str], data: dict[str, object]) -> None:
    if fields.get("number", "").strip():
        of_issue = data["type"] in {"article-journal", "periodical", "review"}
        key = (
            "issue"
            if of_issue
            else "number"
            if data["type"] in {"report", "patent", "standard"}
            else "collection-number"
        )
        data[key] = plain(fields["number"])
    if fields.get("issue", "").strip():
        data.setdefault("issue", plain(fields["issue"]))
    if fields.get("pages", "").strip():
        data["page"] = re.sub(r"\s*(?:--?-?|–)\s*", "-", plain(fields["pages"]))


def _dates(fields: dict[str, str], data: dict[str, object]) -> None:
    if fields.get("date", "").strip():
        data["issued"] = date(fields["date"])
    elif fields.get("year", "").strip():
        year = plain(fields["year"])
        parts: list[object] = [int(year)] if re.fullmatch(r"-?\d{1,4}", year) else []
        month = fields.get("month", "").strip().lower()
        number = int(month) if month.isdigit() else _MONTHS.get(month[:3], 0)
        if parts and 1 <= number <= 12:
            parts.append(number)
            if fields.get("day", "").strip().isdigit():
                parts.append(int(fields["day"]))
        data["issued"] = {"date-parts": [parts]} if parts else {"literal": year}
    for name, key in (("urldate", "accessed"), ("origdate", "original-date"), ("eventdate", "event-date")):
        if fields.get(name, "").strip():
            data[key] = date(fields[name])


def date(text: str) -> dict[str, object]:
    """A date or a range in ISO 8601, with `~` or `?` for about; other texts stay as they are."""
    about = text.rstrip().endswith(("~", "?", "%"))
    parts: list[list[int]] = []
    for end in text.rstrip("~?% ").split("/"):
        match = re.fullmatch(r"\s*(-?\d{1,4})(?:-(\d{1,2}))?(?:-(\d{1,2}))?\s*", end)
        if not match:
            if end.strip() in {"", ".."} and parts:
                continue
            return {"literal": plain(text)}
        numbers = [int(group) for group in match.groups() if group]
        if any(not 1 <= number <= most for number, most in zip(numbers[1:], (24, 31), strict=False)):
            return {"literal": plain(text)}
        parts.append(numbers)
    return {"date-parts": parts} | ({"circa": True} if about else {})


# --- names ------------------------------------------------------------------------------------


def names(text: str) -> list[dict[str, object]]:
    """A BibTeX list of names; `others` at its end becomes an open end."""
    found: list[dict[str, object]] = []
    for part in _split_outside(text, " and "):
        name = " ".join(part.split())
        if name == "others":
            found.append({"others": True})
        elif name:
            found.append(_name(name))
    return found


def _name(name: str) -> dict[str, object]:
    if name.startswith("{") and name.endswith("}") and _split_outside(name, " ") == [name]:
        return {"literal": plain(name)}
    parts = [part.strip() for part in _split_outside(name, ",")]
    if len(parts) == 1:
        return _first_von_last(_split_outside(name, " "))
    family_words = _split_outside(parts[0], " ")
    made = _family(family_words)
    given = parts[2] if len(parts) > 2 else parts[1]
    if len(parts) > 2:
        made["suffix"] = plain(parts[1])
    if given:
        made["given"] = plain(given)
    return made


def _first_von_last(words: list[str]) -> dict[str, object]:
    words = [word for word in words if word]
    small = [place for place, word in enumerate(words[:-1]) if _PARTICLES.match(_first_letter(word))]
    start = small[0] if small else len(words) - 1
    made = _family(words[start:])
    if words[:start]:
        made["given"] = plain(" ".join(words[:start]))
    return made


def _family(words: list[str]) -> dict[str, Any]:
    """Small words at the start are a particle; the last word never is."""
    count = 0
    while count < len(words) - 1 and _PARTICLES.match(_first_letter(words[count])):
        count += 1
    made = {"family": plain(" ".join(words[count:]))}
    if count:
        made["non-dropping-particle"] = plain(" ".join(words[:count]))
    return made


def _first_letter(word: str) -> str:
    return next((letter for letter in re.sub(r"\\[A-Za-z]+", "", word) if letter.isalpha()), "")


def _split_outside(text: str, separator: str) -> list[str]:
    """`text` cut at a separator that stands outside braces."""
    parts, depth, start, place = [], 0, 0, 0
    while place < len(text):
        if text[place] == "{":
            depth += 1
        elif text[place] == "}":
            depth -= 1
        elif depth == 0 and text[place : place + len(separator)].lower() == separator:
            parts.append(text[start:place])
            place += len(separator)
            start = place
            continue
        place += 1
    return [*parts, text[start:]]
