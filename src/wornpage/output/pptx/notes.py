"""What only the speaker sees: a page of notes for each slide that has some, and the master that they rest on."""

from __future__ import annotations

from wornpage.output.deck.model import Deck, Slide
from wornpage.output.ooxml.package import Relations
from wornpage.output.ooxml.xml import HEAD
from wornpage.output.pptx.drawingml import GROUP, LIGHT_MAP, NAMESPACES, Box, Face
from wornpage.output.pptx.text import Text
from wornpage.tree.problem import Problem

_PICTURE = Box(60, 90, 600, 337)
_WORDS = Box(60, 450, 600, 430)


def _holder(number: int, name: str, held: str, box: Box | None, text: str) -> str:
    place = f"<p:spPr>{box.xml()}</p:spPr>" if box else "<p:spPr/>"
    locks = '<a:spLocks noGrp="1" noRot="1" noChangeAspect="1"/>' if "sldImg" in held else '<a:spLocks noGrp="1"/>'
    body = f"<p:txBody><a:bodyPr/><a:lstStyle/>{text}</p:txBody>" if text else ""
    return f'<p:sp><p:nvSpPr><p:cNvPr id="{number}" name="{name}"/><p:cNvSpPr>{locks}</p:cNvSpPr><p:nvPr><p:ph {held}/></p:nvPr></p:nvSpPr>{place}{body}</p:sp>'


def notes_master() -> str:
    """A master for notes: the slide above, the words below."""
    tree = _holder(2, "Slide", 'type="sldImg" idx="2"', _PICTURE, "") + _holder(
        3,
        "Notes",
        'type="body" sz="quarter" idx="3"',
        _WORDS,
        '<a:p><a:r><a:rPr lang="en"/><a:t>Notes</a:t></a:r></a:p>',
    )
    ground = '<p:bg><p:bgPr><a:solidFill><a:schemeClr val="bg1"/></a:solidFill><a:effectLst/></p:bgPr></p:bg>'
    return f"{HEAD}<p:notesMaster {NAMESPACES}><p:cSld>{ground}<p:spTree>{GROUP}{tree}</p:spTree></p:cSld><p:clrMap {LIGHT_MAP}/></p:notesMaster>"


def notes_page(slide: Slide, deck: Deck, relations: Relations, problems: list[Problem]) -> str:
    """The notes of a slide; `problems` hears what cannot stand in them."""
    text = Text(deck.language, deck.terms, relations, lambda label: "", True, 16.0, problems)
    made = [*text.blocks(slide.speaker), *text.called(Face())]
    text.tell_of_pictures()
    words = "".join(one.plain or one.xml for one in made) or "<a:p/>"
    tree = _holder(2, "Slide", 'type="sldImg"', None, "") + _holder(3, "Notes", 'type="body" idx="1"', None, words)
    return (
        f"{HEAD}<p:notes {NAMESPACES}><p:cSld><p:spTree>{GROUP}{tree}</p:spTree></p:cSld>"
        "<p:clrMapOvr><a:masterClrMapping/></p:clrMapOvr></p:notes>"
    )
