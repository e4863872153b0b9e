"""What a pack says of itself to machines: RO-Crate 1.1, <https://www.researchobject.org/ro-crate/1.1/>."""

from __future__ import annotations

import hashlib
import mimetypes
from collections.abc import Sequence
from typing import Any

from wornpage.handover.gathering import Gathered
from wornpage.tree.nodes import Person
from wornpage.tree.version import VERSION

NAME = "ro-crate-metadata.json"
_CONTEXT = "https://w3id.org/ro/crate/1.1/context"
_TYPES = {".md": "text/markdown", ".yaml": "application/yaml", ".bib": "application/x-bibtex", ".toml": "application/toml", ".csv": "text/csv"}  # fmt: skip
_ROLES = {
    "page": "source of the page", "insert": "a file that the page inserts", "settings": "settings of the project", "input": "what outputs are made with",
    "data": "data that the page reads", "module": "code that the page imports", "output": "what was made of the page", "record": "record of the pressing",
    "lock": "packages that the page's code uses",
}  # fmt: skip


def crate_of(pages: Sequence[Gathered], files: dict[str, tuple[str, bytes]], licence: str, day: str) -> dict[str, Any]:
    """The metadata: `files` by name with their roles and contents; `licence` an address, `day` an ISO date."""
    people: dict[str, dict[str, Any]] = {}
    for page in pages:
        for person in page.authors:
            _add_person(people, person)
    authors = [{"@id": key} for key, one in people.items() if one["@type"] == "Person"]
    root: dict[str, Any] = {
        "@id": "./", "@type": "Dataset", "name": "; ".join(page.title for page in pages), "datePublished": day,
        "description": " ".join(page.abstract for page in pages if page.abstract) or "; ".join(page.title for page in pages),
        "hasPart": [{"@id": name} for name in files], "mainEntity": [{"@id": page.page} for page in pages],
    }  # fmt: skip
    keywords = list(dict.fromkeys(word for page in pages for word in page.keywords))
    root |= {"author": authors} if authors else {}
    root |= {"keywords": ", ".join(keywords)} if keywords else {}
    root |= {"license": {"@id": licence}} if licence else {}
    about = {"@id": NAME, "@type": "CreativeWork", "conformsTo": {"@id": "https://w3id.org/ro/crate/1.1"}, "about": {"@id": "./"}}  # fmt: skip
    graph = [about, root, *people.values()]
    graph += [{"@id": licence, "@type": "CreativeWork", "name": licence}] if licence else []
    graph += [_file(name, role, data) for name, (role, data) in files.items()]
    graph += _software(pages)
    graph += [_action(page) for page in pages]
    return {"@context": _CONTEXT, "@graph": graph}


def _file(name: str, role: str, data: bytes) -> dict[str, Any]:
    suffix = name[name.rfind(".") :] if "." in name else ""
    kind = _TYPES.get(suffix) or mimetypes.types_map.get(suffix.lower(), "application/octet-stream")
    made: dict[str, Any] = {
        "@id": name, "@type": ["File", "SoftwareSourceCode"] if role in {"page", "insert", "module"} else "File",
        "name": name.rpartition("/")[2], "description": _ROLES[role], "encodingFormat": kind, "contentSize": str(len(data)),
        "sha256": hashlib.sha256(data).hexdigest(),
    }  # fmt: skip
    return made


def _add_person(people: dict[str, dict[str, Any]], person: Person) -> None:
    key = f"#person-{_slug(person.name)}"
    made: dict[str, Any] = {"@id": key, "@type": "Person", "name": person.name}
    if person.email:
        made["email"] = person.email
    places = []
    for place in person.affiliations:
        there = f"#place-{_slug(place)}"
        people.setdefault(there, {"@id": there, "@type": "Organization", "name": place})
        places.append({"@id": there})
    people[key] = made | ({"affiliation": places} if places else {})


def _software(pages: Sequence[Gathered]) -> list[dict[str, Any]]:
    found = {"worn": ("Worn Page", VERSION)}
    for page in pages:
        found["python"] = ("Python", page.needs.python)
        found |= {one.name: (one.name, one.version) for one in (*page.needs.packages, *page.needs.r)}
    return [
        {"@id": f"#software-{_slug(key)}", "@type": "SoftwareApplication", "name": name, "version": version}
        for key, (name, version) in found.items()
    ]


def _action(page: Gathered) -> dict[str, Any]:
    """How the outputs came of the rest."""
    there = {item.name: item for item in page.items if not item.doubt}
    made = [name for name, item in there.items() if item.role in {"output", "record"}]
    tools = ["worn", "python", *(one.name for one in (*page.needs.packages, *page.needs.r))]
    return {
        "@id": f"#pressing-{_slug(page.page)}", "@type": "CreateAction", "name": f"pressing of {page.page}",
        "instrument": [{"@id": f"#software-{_slug(name)}"} for name in tools],
        "object": [{"@id": name} for name in there if name not in made], "result": [{"@id": name} for name in made],
    }  # fmt: skip


def _slug(words: str) -> str:
    return "-".join("".join(sign if sign.isalnum() else " " for sign in words.lower()).split()) or "x"
