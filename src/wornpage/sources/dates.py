"""Dates as a style or its language writes them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from xml.etree.ElementTree import Element

from wornpage.sources.runs import Run, Runs, joined, parsed
from wornpage.sources.style import Style
from wornpage.sources.terms import DATES, MONTHS, SHORT_MONTHS


def render_date(date: Mapping[str, Any], element: Element, style: Style, suffix: str) -> Runs:
    """`date` as its element asks; `suffix` is the letter that goes after the year."""
    if date.get("literal") or not date.get("date-parts"):
        return (*parsed(str(date.get("literal") or date.get("raw") or "")), *([Run(suffix)] if suffix else []))
    ends: list[Sequence[object]] = [part for part in date["date-parts"] if part]
    parts = parts_of_date(element, style)
    own = style.own_dates.get(element.get("form", ""))
    delimiter = element.get("delimiter", "") or (own.get("delimiter", "") if own is not None else "")
    first = joined((_part(part, ends[0], style, suffix) for part in parts), delimiter)
    if len(ends) < 2 or list(ends[0]) == list(ends[1]):
        return first
    return (*first, Run("–"), *joined((_part(part, ends[1], style, suffix) for part in parts), delimiter))


def date_key(date: Mapping[str, Any], written: Sequence[Mapping[str, str]] | None = None) -> str:
    """What a date is sorted by; of a date that is written without its day or month, those do not count."""
    parts = (date.get("date-parts") or [[]])[0]
    names = {part.get("name") for part in written} if written is not None else {"year", "month", "day"}
    kept = [part for part, name in zip(parts, ("year", "month", "day"), strict=False) if name in names]
    return "-".join(f"{int(part):05d}" for part in kept)


def parts_of_date(element: Element, style: Style) -> list[dict[str, str]]:
    """The parts to write, in order: the element's own, or those of the language."""
    form = element.get("form")
    own = {part.get("name", ""): part.attrib for part in element.findall("date-part")}
    if form is None:
        return [dict(part.attrib) for part in element.findall("date-part")]
    wanted = element.get("date-parts", "year-month-day").split("-")
    if form in style.own_dates:
        found = [dict(part.attrib) for part in style.own_dates[form].findall("date-part")]
    else:
        table = DATES.get((style.locale, form)) or DATES[style.language, form]
        zeros = {"form": "numeric-leading-zeros"} if form == "numeric" else {}
        found = [{"name": name, "prefix": prefix, "suffix": suffix, **zeros} for name, prefix, suffix in table]
    kept = [{**part, **own.get(part["name"], {})} for part in found if part["name"] in wanted]
    if kept:
        kept[-1] = {
            **kept[-1],
            "suffix": kept[-1].get("suffix", "").rstrip() if len(kept) < len(found) else kept[-1].get("suffix", ""),
        }
        if len(kept) < len(found) and kept[0]["name"] == "year" and kept[-1]["name"] == "year":
            kept[0] = {**kept[0], "prefix": "", "suffix": ""}
    return kept


def _part(part: Mapping[str, str], date: Sequence[Any], style: Style, suffix: str) -> Runs:
    name, form = part.get("name", ""), part.get("form", "")
    place = {"year": 0, "month": 1, "day": 2}[name]
    if place >= len(date) or date[place] in {None, ""}:
        return ()
    number = int(date[place])
    match name:
        case "year":
            text = f"{abs(number)}" + (f" {style.term('bc')}" if number < 0 else "")
            text = (text[-2:] if form == "short" else text) + suffix
        case "month":
            text = _month(number, form, style)
        case _:
            text = (
                f"{number:02d}"
                if form == "numeric-leading-zeros"
                else style.ordinal(number, of_a_day=True)
                if form == "ordinal" and (number == 1 or not _first_alone(style))
                else str(number)
            )
    if part.get("strip-periods") == "true":
        text = text.replace(".", "")
    return (Run(part.get("prefix", "") + text + part.get("suffix", "")),)


def _first_alone(style: Style) -> bool:
    """Whether the first of a month alone is written as an ordinal, as in French."""
    return style.options.get("limit-day-ordinals-to-day-1", str(style.language == "fr").lower()) == "true"


def _month(number: int, form: str, style: Style) -> str:
    if 13 <= number <= 24:
        return style.term(f"season-{(number - 13) % 4 + 1:02d}")
    if form in {"numeric", "numeric-leading-zeros"}:
        return f"{number:02d}" if form.endswith("zeros") else str(number)
    own = style.own_terms.get(f"month-{number:02d}" + (" short" if form == "short" else ""))
    table = SHORT_MONTHS if form == "short" else MONTHS
    return own[0] if own else table[style.language].split()[number - 1]
