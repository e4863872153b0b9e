"""Values in sentences: an answer in the form its mark asks for, as the page's language writes it."""

from __future__ import annotations

import datetime
import math
import re
from decimal import Decimal

from wornpage.compose.language import Language, write_date, write_number, write_words
from wornpage.compose.numbers import LARGEST, SMALLEST, is_rounded, places_of
from wornpage.session.results import Answer

Number = float | Decimal
_PLAIN = re.compile(r"-?\d+(\.\d+)?")


class FormFault(ValueError):
    """The form does not fit the value."""


def write_value(answer: Answer, form: str, decimals: int | None, language: Language) -> str:
    """The words for `answer`. Raises `FormFault`."""
    if answer.type in {"whole", "number"}:
        return _number(answer.value, form, decimals, language)
    if answer.type == "faces":
        return _face(answer.value, form, decimals, language)
    if form and form[0] not in "\"'":
        raise FormFault(f"the form {form!r} wants a number, and this is {_kind(answer)}")
    match answer.type:
        case "missing":
            return "\u2013"
        case "truth":
            return language.yes_no[0 if answer.value else 1]
        case "date":
            return write_date(datetime.date.fromisoformat(answer.value), language)
        case "moment":
            return _moment(datetime.datetime.fromisoformat(answer.value), language)
    return str(answer.value)


def _face(value: dict[str, str], form: str, decimals: int | None, language: Language) -> str:
    """What has its own way of being written, as a number where one is asked for."""
    number = Decimal(value["number"]) if value["number"] else None
    if number is not None and ((form and form[0] not in "\"'") or (decimals is not None and not value["formula"])):
        return _number(number, form, decimals, language)
    if form and form[0] not in "\"'":
        raise FormFault(f"the form {form!r} wants a number, and this is a text")
    return write_number(value["text"], language) if _PLAIN.fullmatch(value["text"]) else value["text"]


def _kind(answer: Answer) -> str:
    return {"missing": "missing", "truth": "yes or no", "date": "a date", "moment": "a date"}.get(answer.type, "a text")


def _moment(moment: datetime.datetime, language: Language) -> str:
    day = write_date(moment.date(), language)
    return day if moment.time() == datetime.time() else f"{day}, {time_of_day(moment)}"


def time_of_day(moment: datetime.datetime, seconds: bool = False) -> str:
    """Hours and minutes, and seconds as far as there are any or they are wished; with the zone if it is known."""
    text = f"{moment:%H:%M:%S}" if seconds or moment.second or moment.microsecond else f"{moment:%H:%M}"
    if moment.microsecond:
        text += f".{moment:%f}".rstrip("0")
    if moment.tzinfo is None:
        return text
    zone = f"{moment:%z}"
    return f"{text} UTC" if zone in {"+0000", "-0000"} else f"{text} {zone[:3].replace('-', chr(0x2212))}:{zone[3:5]}"


def _number(value: Number, form: str, decimals: int | None, language: Language) -> str:
    if not (value.is_finite() if isinstance(value, Decimal) else isinstance(value, int) or math.isfinite(value)):
        return "\u2013" if math.isnan(value) else ("∞" if value > 0 else f"{language.minus}∞")
    if form == "percent":
        places = 1 if decimals is None else decimals
        return write_number(fixed(value, places, "%").removesuffix("%"), language) + language.percent
    if form == "thousands":
        places = decimals or 0
        return write_number(fixed(value, places), language, grouped=True)
    if form == "words":
        return _in_words(value, language)
    if form == "p-value":
        return _p_value(value, language)
    if form.endswith(("decimal", "decimals")):
        return write_number(fixed(value, int(form.split(maxsplit=1)[0])), language)
    return plain_number(value, decimals, language)


def fixed(value: Number, places: int, kind: str = "f") -> str:
    """A number with so many places. Whole numbers keep every digit, which they would not by way of a floating one."""
    return format(Decimal(value) if isinstance(value, int) else value, f".{places}{kind}")


def plain_number(value: Number, decimals: int | None, language: Language) -> str:
    """A number as one would write it: whole numbers whole, others with the digits that they have."""
    if isinstance(value, int):
        return write_number(str(value), language)
    if decimals is not None:
        return write_number(fixed(value, decimals), language)
    if value and not SMALLEST <= abs(float(value)) < LARGEST:
        mantissa, _, exponent = f"{value:.5e}".partition("e")
        mantissa = mantissa.rstrip("0").rstrip(".")
        raised = str(int(exponent)).translate(str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹"))
        return f"{language.digits_begin}{write_number(mantissa, language)}\u202f×\u202f10{raised}"
    text = f"{value:.{places_of(float(value))}f}"
    return write_number(text.rstrip("0").rstrip(".") if "." in text else text, language)


def exact_number(value: object, shown_places: int | None) -> str:
    """All digits of a number that is shown with fewer, as the machine writes it; empty where nothing is hidden."""
    if not isinstance(value, float) or not math.isfinite(value):
        return ""
    if shown_places is not None:
        shown = round(value, shown_places)
    elif value and not SMALLEST <= abs(value) < LARGEST:
        shown = float(f"{value:.5e}")
    else:
        shown = round(value, places_of(value))
    return repr(value) if is_rounded(value, shown) else ""


def _p_value(value: Number, language: Language) -> str:
    if not 0 <= value <= 1:
        raise FormFault(f"a p-value lies between 0 and 1, and this is {str(value)[:40]}")
    if value < 0.001:
        return "<\u00a0" + write_number("0.001", language)
    return "=\u00a0" + write_number(f"{value:.3f}", language)


def _in_words(value: Number, language: Language) -> str:
    if value != int(value) or not -(10**15) < value < 10**15:
        raise FormFault(f"only whole numbers of up to 15 digits can be written in words, and this is {str(value)[:40]}")
    return write_words(int(value), language)
