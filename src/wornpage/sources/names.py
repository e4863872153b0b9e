"""Names as a style wants them: order, initials, particles, `and`, et al."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from xml.etree.ElementTree import Element

from msgspec import Struct
from msgspec.structs import replace

from wornpage.sources.runs import Run, Runs, cased, joined, with_look, words
from wornpage.sources.style import Style

Name = dict[str, object]


class NameLook(Struct, frozen=True):
    """How a list of names is written."""

    join: str = ""
    """`text` or `symbol` for a word or a sign before the last name; empty for none."""
    delimiter: str = ", "
    precedes_last: str = "contextual"
    least: int = 0
    """From how many names on the list is cut; 0 for never."""
    first: int = 1
    """How many names are then left."""
    use_last: bool = False
    form: str = "long"
    sort_order: str = ""
    sort_separator: str = ", "
    initials: str | None = None
    """What stands after each initial; None for full given names."""
    initialise: bool = True
    particle: str = "display-and-sort"
    hyphen: bool = True
    precedes_et_al: str = "contextual"
    et_al: str = "et-al"
    et_al_look: str = ""
    family_case: str = ""
    family_look: str = ""
    levels: Mapping[tuple[str, str], int] | None = None
    """How much of their given names tells people of one family name apart (`given_levels`); None to leave that."""
    told_apart: int = 0
    """How many names, from the first, are told apart so."""
    for_sort: bool = False
    delimiter_between: str = ", "

    @classmethod
    def of(cls, names: Element, part: Element | None, root: Element, again: bool = False) -> NameLook:
        """The look of a `names` element; what it leaves open is taken from the citation or the list, then the style.

        `again` where the work has been cited before.
        """
        name = names.find("name")
        et_al = names.find("et-al")

        def found(attribute: str, inherited: str = "", default: str = "") -> str:
            for element, key in ((name, attribute), (part, inherited or attribute), (root, inherited or attribute)):
                if element is not None and element.get(key) is not None:
                    return element.get(key, "")
            return default

        def cut(what: str) -> str:
            return (found(f"et-al-subsequent-{what}") if again else "") or found(f"et-al-{what}")

        family = next((each for each in (name if name is not None else ()) if each.get("name") == "family"), None)
        initials = found("initialize-with", default="\0")
        return cls(
            join=found("and"), delimiter=found("delimiter", "name-delimiter", ", "),
            precedes_last=found("delimiter-precedes-last", default="contextual"), least=int(cut("min") or 0),
            first=int(cut("use-first") or 1), use_last=found("et-al-use-last") == "true",
            form=found("form", "name-form", "long"), sort_order=found("name-as-sort-order"),
            sort_separator=found("sort-separator", default=", "), initials=None if initials == "\0" else initials,
            initialise=found("initialize", default="true") != "false",
            particle=root.get("demote-non-dropping-particle", "display-and-sort"),
            hyphen=root.get("initialize-with-hyphen", "true") == "true",
            precedes_et_al=found("delimiter-precedes-et-al", default="contextual"),
            et_al=et_al.get("term", "et-al") if et_al is not None else "et-al",
            et_al_look="italic" if et_al is not None and et_al.get("font-style") == "italic" else "",
            family_case=family.get("text-case", "") if family is not None else "",
            family_look="smallcaps" if family is not None and family.get("font-variant") == "small-caps" else "",
            delimiter_between=found("names-delimiter", "names-delimiter", ", "),
        )  # fmt: skip


def render_names(names: Sequence[Name], look: NameLook, style: Style) -> tuple[Runs, int]:
    """A list of names in words, and how many there are."""
    open_end = bool(names) and bool(names[-1].get("others"))
    known = [name for name in names if not name.get("others")]
    if look.form == "count":
        return (Run(str(len(known))),), len(known)
    cut = bool(look.least) and len(known) >= look.least and look.first < len(known)
    shown = known[: look.first] if cut else known
    parts = [_one(name, look, style, place) for place, name in enumerate(shown)]
    inverted = look.sort_order in {"first", "all"}
    if cut and look.use_last and len(known) > look.first + 1:
        last = _one(known[-1], look, style, len(known) - 1)
        return (*joined(parts, look.delimiter), Run(f"{look.delimiter}… "), *last), len(known)
    if (cut or open_end) and look.for_sort:
        return joined(parts, look.delimiter), max(len(known), 2)
    if cut or open_end:
        gap = look.delimiter if _precedes(look.precedes_et_al, len(parts), inverted) else " "
        looks = frozenset({look.et_al_look} if look.et_al_look else ())
        return (*joined(parts, look.delimiter), Run(gap), Run(style.term(look.et_al), looks)), max(len(known), 2)
    return _listed(parts, look, style, inverted), len(known)


_WHOLE = 2


def given_levels(names: Iterable[Name], look: NameLook, whole: bool) -> dict[tuple[str, str], int]:
    """For each of several people: 1 if initials tell them from others of their family name, 2 if only whole names do.

    Not `whole`: never more than initials. Those whom the family name tells apart are left out.
    """
    families: dict[str, dict[str, str]] = {}
    for name in names:
        family, given = _person(name, look)
        if family:
            families.setdefault(family, {})[given] = _initialled(given, look) if look.initials is not None else ""
    levels: dict[tuple[str, str], int] = {}
    for family, people in families.items():
        if len(people) < 2:
            continue
        for given, initials in people.items():
            alike = sum(other == initials for other in people.values()) > 1
            if look.initials is None or (alike and whole):
                levels[family, given] = _WHOLE
            elif len(set(people.values())) > 1:
                levels[family, given] = 1
    return levels


def _person(name: Name, look: NameLook) -> tuple[str, str]:
    """What people are told apart by: family name, with its particle where that is never parted from it, and given names."""
    particle = str(name.get("non-dropping-particle", "")) if look.particle == "never" else ""
    return _spaced(particle, str(name.get("family", ""))), str(name.get("given", ""))


def _listed(parts: list[Runs], look: NameLook, style: Style, inverted: bool) -> Runs:
    if len(parts) < 2 or not look.join:
        return joined(parts, look.delimiter)
    word = "&" if look.join == "symbol" else style.term("and")
    first, last = parts[:-1], parts[-1]
    gap = look.delimiter if _precedes(look.precedes_last, len(first), inverted) else " "
    return (*joined(first, look.delimiter), Run(f"{gap}{word} "), *last)


def _precedes(rule: str, before: int, inverted: bool) -> bool:
    """Whether the delimiter also stands before `and` or `et al.`."""
    match rule:
        case "always":
            return True
        case "never":
            return False
        case "after-inverted-name":
            return inverted and before == 1
    return before > 1


def _one(name: Name, look: NameLook, style: Style, place: int) -> Runs:
    if name.get("literal"):
        return _family((Run(str(name["literal"])),), look, style)
    family, given = str(name.get("family", "")), str(name.get("given", ""))
    dropping, particle, suffix = (
        str(name.get(key, "")) for key in ("dropping-particle", "non-dropping-particle", "suffix")
    )
    if not family:
        return (Run(given),)
    level = look.levels.get(_person(name, look), 0) if look.levels and place < look.told_apart else 0
    if level == _WHOLE:
        look = replace(look, initials=None)
    if look.form == "short" and not level:
        is_demoted = look.for_sort and look.particle in {"sort-only", "display-and-sort"}
        whole = family if is_demoted else _spaced(particle, family)
        return _family((Run(whole),), look, style)
    given = _initialled(given, look)
    if look.initials is not None and "." not in look.initials:
        suffix = suffix.replace(".", "")
    if look.sort_order == "all" or (look.sort_order == "first" and place == 0):
        demoted = look.particle == "display-and-sort" or (look.for_sort and look.particle == "sort-only")
        front = family if demoted else _spaced(particle, family)
        back = _spaced(given, dropping, particle if demoted else "")
        parts = [_family((Run(front),), look, style), (Run(back),), (Run(suffix),)]
        return joined(parts, look.sort_separator)
    made: list[Runs] = [(Run(_spaced(given, dropping)),), _family((Run(_spaced(particle, family)),), look, style)]
    runs = joined([part for part in made if words(part)], " ")
    return (*runs, Run(f"{',' if name.get('comma-suffix') else ''} {suffix}")) if suffix else runs


def _family(runs: Runs, look: NameLook, style: Style) -> Runs:
    if look.family_case:
        runs = cased(runs, look.family_case, style.language)
    return with_look(runs, look.family_look) if look.family_look else runs


def _spaced(*parts: str) -> str:
    said = ""
    for part in parts:
        if part:
            said += part if said.endswith(("’", "'", "-")) or not said else f" {part}"
    return said


def _initialled(given: str, look: NameLook) -> str:
    """Given names as initials, if the style wants them; names that are initials already get its signs."""
    if look.initials is None or not given:
        return given
    made = []
    for word in re.split(r"\s+|(?<=\.)(?=\S)", given.strip()):
        is_initial = re.fullmatch(r"[^\W\d_]\.?", word) is not None
        if word[:1].islower() and not is_initial:
            made.append(f" {word} ")
        elif look.initialise or is_initial:
            pieces = [piece for piece in re.split(r"[-‐]", word) if piece]
            joint = "-" if look.hyphen else ""
            made.append(joint.join(f"{piece[0]}{look.initials.rstrip() if n < len(pieces) - 1 else look.initials}" for n, piece in enumerate(pieces)))  # fmt: skip
        else:
            made.append(f"{word} ")
    return re.sub(r"\s+", " ", "".join(made)).strip()
