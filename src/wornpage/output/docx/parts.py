"""Parts of the package beside the body: properties, settings, notes, heads and feet."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from wornpage.output.docx.looks import Looks
from wornpage.output.docx.xml import NAMESPACES, Properties, field, paragraph, run
from wornpage.output.ooxml import properties
from wornpage.output.ooxml.package import Leading, relations_part
from wornpage.output.ooxml.xml import HEAD
from wornpage.tree.language import Language


def leading(name: str, kind: str, target: str) -> str:
    """A relationship with an id of its own."""
    return Leading(name, kind, target).xml()


ROOT = relations_part(
    leading("rId1", "officeDocument", "word/document.xml")
    + leading("rId2", properties.LEAD, properties.NAME)
    + leading("rId3", "extended-properties", "docProps/app.xml")
)
APP = (
    f'{HEAD}<Properties xmlns="http://schemas.openxmlformats.org/officeDocument/2006/extended-properties">'
    "<Application>Worn Page</Application></Properties>"
)


def settings(language: str, notes: str, terms: Language) -> str:
    """What holds for the whole document; `notes` is the kind of its notes."""
    marks = f'<w:{notes}Pr><w:{notes} w:id="-1"/><w:{notes} w:id="0"/></w:{notes}Pr>' if notes else ""
    separator = ";" if terms.decimal == "," else ","
    return (
        f'{HEAD}<w:settings {NAMESPACES}><w:zoom w:percent="100"/><w:defaultTabStop w:val="720"/>'
        f'<w:characterSpacingControl w:val="doNotCompress"/>{marks}<w:compat><w:compatSetting w:name="compatibilityMode" '
        'w:uri="http://schemas.microsoft.com/office/word" w:val="15"/></w:compat><m:mathPr><m:mathFont m:val="Cambria Math"/></m:mathPr>'
        f'<w:themeFontLang w:val="{language}"/><w:decimalSymbol w:val="{terms.decimal}"/><w:listSeparator w:val="{separator}"/></w:settings>'
    )


def notes(kind: str, bodies: Iterable[str], ids: Mapping[str, str]) -> str:
    """The notes, and the lines that part them from the text."""
    tight = Properties(spacing='w:before="0" w:after="0" w:line="240" w:lineRule="auto"')
    made = "".join(
        f'<w:{kind} w:type="{sign}" w:id="{number}">{paragraph(f"<w:r><w:{sign}/></w:r>", tight)}</w:{kind}>'
        for number, sign in ((-1, "separator"), (0, "continuationSeparator"))
    )
    made += "".join(f'<w:{kind} w:id="{number}">{body}</w:{kind}>' for number, body in enumerate(bodies, 1))
    return f"{HEAD}<w:{kind}s {NAMESPACES}>{made}</w:{kind}s>"


def head(title: str, looks: Looks, ids: Mapping[str, str]) -> str:
    """What runs along the head of each sheet but the first."""
    words = field("STYLEREF 1", run(title)) if looks.sheets.running == "section" else run(title)
    inner = words + run("\t") + field("PAGE", run("2"))
    return f"{HEAD}<w:hdr {NAMESPACES}>{paragraph(inner, Properties(pStyle=_style(ids, 'Header')))}</w:hdr>"


def foot(ids: Mapping[str, str]) -> str:
    """The number at the foot of the first sheet."""
    return f"{HEAD}<w:ftr {NAMESPACES}>{paragraph(field('PAGE', run('1')), Properties(pStyle=_style(ids, 'Footer')))}</w:ftr>"


def _style(ids: Mapping[str, str], key: str) -> str:
    return f'w:val="{ids[key]}"'
