"""A deck as one HTML file."""

from __future__ import annotations

import base64
import json
import re
from html import escape
from importlib.resources import files
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from wornpage.output.deck.model import PLAIN, TITLE, Deck, Slide
from wornpage.output.deck.options import DeckPress
from wornpage.output.deck.parting import deck_of
from wornpage.output.html.live import live_script
from wornpage.output.html.mathfont import math_style
from wornpage.output.html.sheets import InnerStyle, inner_style, style_of
from wornpage.output.kind import Job, Written
from wornpage.output.outputs import options_in
from wornpage.output.slides.drawn import drawn_in
from wornpage.output.slides.writer import SlideWriter
from wornpage.output.stationery import find_stationery
from wornpage.tree.colours import is_dark
from wornpage.tree.files import as_utf8, file_text
from wornpage.tree.nodes import Composed
from wornpage.tree.walk import words_of

_HERE = "wornpage.output.slides"
_SCRIPTS = ("show.js", "speaker.js", "drawing.js")
_OF_TALKS = "following.js"
_LAST = "start.js"
_CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ufdd0-\ufdef\ufffe\uffff]")


class Talk(Struct, frozen=True):
    """What slides are told that are shown in a talk."""

    address: str = ""
    """For the speaker's: where the audience's are; empty for those of the audience, which follow."""


def write_slides(page: Composed, job: Job) -> Written:
    """The slides of a page, ready to be shown."""
    options: DeckPress = options_in(job.settings, "slides")
    deck, problems = deck_of(page, options, "slides")
    written = deck_file(deck, options, job)
    return replace(written, problems=(*problems, *written.problems))


def deck_file(deck: Deck, options: DeckPress, job: Job, talk: Talk | None = None) -> Written:
    """One file: the slides, their looks, and the script that shows them one by one.

    Slides of a `talk` listen to its server; those of the audience hold nothing that only the speaker sees.
    """
    if talk is not None:
        options = replace(options, speaker=bool(talk.address))
    stationery = find_stationery(job.settings.stationery, job.folder / job.name)
    sheets = [style_of(stationery, "slides.css")]
    sheets += [_style(job.folder, name) for name in options.stylesheets]
    drawn, faults = drawn_in(job.folder, options.drawn, deck)
    body, living = _slides(deck, options, job.name)
    text = _framed(deck, options, body, living, [sheet.text for sheet in sheets], drawn, talk)
    told = [problem for sheet in sheets for problem in sheet.problems]
    read = tuple(path for sheet in sheets for path in sheet.read)
    return Written(as_utf8(_CONTROLS.sub("\ufffd", text)), (*faults, *told), read=read)


def _style(folder: Path, name: str) -> InnerStyle:
    return inner_style(file_text(folder / name), (folder / name).parent, name)


# --- slides ---------------------------------------------------------------------------------------


def _slides(deck: Deck, options: DeckPress, name: str) -> tuple[str, str]:
    """All slides, and what makes their figures live."""
    writer = SlideWriter(deck.terms, options.new_slide_at, name)
    body = "\n".join(_slide(slide, at, deck, options, writer) for at, slide in enumerate(deck.slides, 1))
    return body, live_script(body, writer.libraries.packed)


def _slide(slide: Slide, at: int, deck: Deck, options: DeckPress, writer: SlideWriter) -> str:
    """One slide: what is seen, and what only the speaker sees."""
    writer.begin()
    title, body = _title(slide, deck, writer), writer.blocks(slide.blocks)
    notes = writer.notes_below()
    said = f"{at}: {words_of(slide.title)}" if slide.title else str(at)
    behind = writer.behind(slide.look.picture) if slide.look.picture is not None else ""
    speaker = ""
    if options.speaker and slide.speaker:
        writer.begin()
        words = writer.blocks(slide.speaker)
        speaker = f'\n<aside class="speaker" hidden>\n{words}\n{writer.notes_below()}</aside>'
    foot = _foot(slide, at, deck)
    own_label = "" if _has_heading(slide) else f' id="{escape(slide.label)}"'
    return (
        f'<section class="{_classes(slide, at)}"{own_label} data-address="{escape(slide.label)}" data-steps="{slide.steps}"'
        f' role="group" aria-roledescription="{escape(deck.terms.slides["slide"])}" aria-label="{escape(said)}"{_look(slide)}>'
        f'\n<div class="sheet">{behind}\n{title}<div class="body">\n{body}\n</div>\n{notes}{foot}</div>{speaker}\n</section>'
    )


def _classes(slide: Slide, at: int) -> str:
    found = ["slide", f"of-{slide.kind}"]
    if slide.look.vertical:
        found.append(slide.look.vertical)
    if slide.look.picture is not None:
        found.append("dark pictured")
    elif slide.look.background:
        found.append("dark" if is_dark(slide.look.background) else "light")
    return " ".join([*found, "now"] if at == 1 else found)


def _look(slide: Slide) -> str:
    parts = []
    if slide.look.background:
        parts.append(f"--ground: {slide.look.background}")
    if slide.scale != 1:
        parts.append(f"--scale: {slide.scale:g}")
    return f' style="{"; ".join(parts)}"' if parts else ""


def _has_heading(slide: Slide) -> bool:
    """Whether its heading has its label, and not the slide itself."""
    return bool(slide.title) and slide.part <= 1 and slide.kind != TITLE and slide.is_labelled


def _title(slide: Slide, deck: Deck, writer: SlideWriter) -> str:
    if slide.kind == TITLE:
        return _title_slide(deck, writer)
    if not slide.title:
        return ""
    label = f' id="{escape(slide.label)}"' if _has_heading(slide) else ""
    hidden = "" if slide.look.titled else ' class="unseen"'
    number = f'<span class="number">{escape(slide.number)}</span>' if slide.number else ""
    part = f' <span class="part">{slide.part}/{slide.parts}</span>' if slide.parts and slide.kind == PLAIN else ""
    return f"<h2{label}{hidden}>{number}{writer.inlines(slide.title)}{part}</h2>\n"


def _title_slide(deck: Deck, writer: SlideWriter) -> str:
    """What the head of the page says, but its abstract."""
    head = deck.head
    lines = [f"<h1>{writer.inlines(head.title)}</h1>"]
    if head.subtitle:
        lines.append(f'<p class="subtitle">{writer.inlines(head.subtitle)}</p>')
    if head.authors:
        people = "".join(
            f'<li><span class="name">{escape(person.name)}</span>'
            + "".join(f'<span class="affiliation">{escape(place)}</span>' for place in person.affiliations)
            + "</li>"
            for person in head.authors
        )
        lines.append(f'<ul class="authors">{people}</ul>')
    if head.date:
        lines.append(f'<p class="date">{escape(head.date)}</p>')
    return f'<div class="head">{"".join(lines)}</div>\n'


def _foot(slide: Slide, at: int, deck: Deck) -> str:
    if slide.kind == TITLE or not (deck.footer or deck.numbered):
        return ""
    number = f'<span class="count">{at}</span>' if deck.numbered else ""
    return f'<p class="foot"><span>{escape(deck.footer)}</span>{number}</p>\n'


# --- the file -------------------------------------------------------------------------------------


def _framed(
    deck: Deck, options: DeckPress, body: str, living: str, styles: list[str], drawn: str, talk: Talk | None
) -> str:
    shape, terms = deck.shape, deck.terms
    known = {
        "title": deck.plain_title, "width": shape.width, "height": shape.height, "minutes": deck.minutes, "words": terms.slides,
        "motion": options.motion,
    }  # fmt: skip
    if talk is not None:
        known |= {"talking": talk.address} if talk.address else {"following": True}
    scripts = (*_SCRIPTS, *([_OF_TALKS] if talk is not None else []), _LAST)
    sizes = f":root {{ --width: {shape.width}px; --height: {shape.height}px; --side: {shape.side}px; }}"
    paper = f"@page {{ size: {shape.width}px {shape.height}px; margin: 0; }}"
    mathematics = math_style(body)
    direction = ' dir="rtl"' if terms.right_to_left else ""
    script = "\n".join((files(_HERE) / name).read_text(encoding="utf-8").strip() for name in scripts)
    style = "\n".join(filter(None, (_faces(), sizes, paper, mathematics, *styles)))
    return f"""<!DOCTYPE html>
<html lang="{escape(deck.language)}"{direction}>
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{escape(deck.plain_title)}</title>
<style>
{style}
</style>
<script>document.documentElement.classList.add("shown")</script>
</head>
<body>
<main class="deck" id="deck" aria-label="{escape(deck.plain_title)}">
{body}
</main>
<script type="application/json" id="worn-deck">{_inner_json(known)}</script>
<script type="application/json" id="worn-drawn">{drawn}</script>
<script>
{script}
</script>{living}
</body>
</html>
"""


def _inner_json(data: object) -> str:
    return json.dumps(data, ensure_ascii=False, sort_keys=True).replace("<", "\\u003c")


def _faces() -> str:
    """The letters of slides, so that they look alike on every screen."""
    made = []
    for face, look in (("regular", ""), ("italic", "font-style: italic; "), ("bold", "font-weight: 700; ")):
        data = base64.b64encode((files("wornpage.output.deck") / f"sans-{face}.woff2").read_bytes()).decode()
        source = f'url(data:font/woff2;base64,{data}) format("woff2")'
        made.append(f'@font-face {{ font-family: "Worn Sans"; {look}src: {source}; }}')
    return "\n".join(made)
