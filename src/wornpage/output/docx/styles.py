"""Our styles: those that word processors know by name, and those that only we have."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from msgspec import Struct

from wornpage.output.docx.looks import Looks
from wornpage.output.docx.xml import Properties, twips
from wornpage.output.ooxml.xml import escaped

DEEPEST = 6
"""Levels of headings."""
ROLES = ("keyword", "string", "number", "constant", "comment", "name", "builtin")
"""Of runs of code."""


class Style(Struct, frozen=True):
    """One style."""

    key: str
    """What we call it; its id where no template has another."""
    name: str
    """What word processors call it, in every language where they know it."""
    kind: str = "paragraph"
    based: str = "Normal"
    following: str = ""
    paragraph: str = ""
    letters: str = ""
    fonts: str = ""
    """A font of its own, which is left to a template where there is one."""
    colour: str = ""
    """So is a colour."""
    table: str = ""
    own: bool = True
    """Whether only we have it."""
    quick: bool = False
    """Whether it is offered to those who write."""

    def xml(self, ids: Mapping[str, str], plain: bool = False) -> str:
        """As `w:style`; `plain` without fonts and colours, which then follow those of the template."""
        font = (
            f'<w:rFonts w:ascii="{escaped(self.fonts)}" w:hAnsi="{escaped(self.fonts)}" w:cs="{escaped(self.fonts)}"/>'
        )
        colour = f'<w:color w:val="{self.colour}"/>' if self.colour and not plain else ""
        is_code = self.key.lower().startswith("code") or self.key in {"Output", "Notice", "Failure"}
        letters = (font if self.fonts and (is_code or not plain) else "") + _coloured(self.letters, colour)
        based = f'<w:basedOn w:val="{ids.get(self.based, self.based)}"/>' if self.based else ""
        following = f'<w:next w:val="{ids.get(self.following, self.following)}"/>' if self.following else ""
        return (
            f'<w:style w:type="{self.kind}"{_OWN if self.own else ""} w:styleId="{ids[self.key]}"><w:name w:val="{escaped(self.name)}"/>'
            f"{based}{following}{'<w:qFormat/>' if self.quick else '<w:unhideWhenUsed/>'}"
            + (f"<w:pPr>{self.paragraph}</w:pPr>" if self.paragraph else "")
            + (f"<w:rPr>{letters}</w:rPr>" if letters else "")
            + self.table
            + "</w:style>"
        )


_OWN = ' w:customStyle="1"'
_BEFORE_COLOUR = ("<w:b/>", "<w:bCs/>", "<w:i/>", "<w:iCs/>", "<w:smallCaps/>", "<w:noProof/>")


def _coloured(letters: str, colour: str) -> str:
    """Properties of letters with a colour where the schema wants it."""
    place = 0
    while any(letters.startswith(tag, place) for tag in _BEFORE_COLOUR):
        place = letters.index(">", place) + 1
    return letters[:place] + colour + letters[place:]


def size(points: float) -> str:
    """A size of letters."""
    half = round(points * 2)
    return f'<w:sz w:val="{half}"/><w:szCs w:val="{half}"/>'


BOLD, ITALIC, NO_PROOF = "<w:b/><w:bCs/>", "<w:i/><w:iCs/>", "<w:noProof/>"


def _spaced(before: float = 0, after: float = 0, line: float = 0) -> str:
    """Room above and below in points, and the height of lines."""
    height = f' w:line="{round(line * 240)}" w:lineRule="auto"' if line else ""
    return f'w:before="{round(before * 20)}" w:after="{round(after * 20)}"{height}'


def our_styles(looks: Looks, numbers: int) -> tuple[Style, ...]:
    """All of them; `numbers` is the list that headings have their numbers from, 0 for none."""
    text, code = (*_of_text(looks), *_headings(looks, numbers), *_of_title(looks)), _of_code(looks)
    return (*text, *code, *_of_things(looks), *_characters(looks), *_tables(looks))


def _of_text(looks: Looks) -> Iterable[Style]:
    between, soft = looks.lines.between, looks.colours.soft
    side = Properties(spacing=_spaced(after=between), **({"jc": 'w:val="both"'} if looks.lines.justified else {}))
    yield Style("BodyText", "Body Text", paragraph=str(side), own=False, quick=True)
    first = f'w:firstLine="{twips(looks.lines.first)}"'
    indented = Properties(ind=first) if looks.lines.first else Properties()
    yield Style("BodyTextFirstIndent", "Body Text First Indent", based="BodyText", paragraph=str(indented), own=False)
    edge = f'<w:left w:val="single" w:sz="16" w:space="10" w:color="{looks.colours.hair}"/>'
    quote = Properties(pBdr=edge, spacing=_spaced(after=between), ind='w:left="340" w:right="340"')
    yield Style("Quote", "Quote", following="BodyText", paragraph=str(quote), colour=soft, own=False, quick=True)
    for key, name in (("ListBullet", "List Bullet"), ("ListNumber", "List Number"), ("ListContinue", "List Continue")):
        yield Style(key, name, based="BodyText", own=False, quick=True)
    yield Style(
        "Term",
        "Definition Term",
        following="Meaning",
        paragraph=str(Properties(keepNext="", spacing=_spaced(after=2))),
        letters=BOLD,
    )
    yield Style("Meaning", "Definition Meaning", based="BodyText", paragraph=str(Properties(ind='w:left="425"')))
    line = f'<w:bottom w:val="single" w:sz="4" w:space="1" w:color="{looks.colours.hair}"/>'
    rule = Properties(pBdr=line, spacing=_spaced(between, between * 2), ind='w:left="2800" w:right="2800"')
    yield Style("Rule", "Dividing Line", following="BodyText", paragraph=str(rule))
    entry = Properties(keepLines="", spacing=_spaced(after=4), ind='w:left="425" w:hanging="425"')
    yield Style("Bibliography", "Bibliography", paragraph=str(entry), letters=size(looks.letters.size - 0.5), own=False)
    note = str(Properties(spacing=_spaced(after=2, line=1)))
    for kind in ("footnote", "endnote"):
        yield Style(f"{kind.title()}Text", f"{kind} text", paragraph=note, letters=size(looks.letters.note), own=False)
    running = Properties(
        suppressLineNumbers="", tabs=f'<w:tab w:val="right" w:pos="{twips(21 - 2 * looks.sheets.sides)}"/>'
    )
    yield Style(
        "Header",
        "header",
        paragraph=str(running.add("spacing", _spaced(line=1))),
        letters=size(looks.letters.note),
        colour=soft,
        own=False,
    )
    foot = Properties(suppressLineNumbers="", spacing=_spaced(line=1), jc='w:val="center"')
    yield Style("Footer", "footer", paragraph=str(foot), letters=size(looks.letters.note), colour=soft, own=False)
    gap = Properties(suppressLineNumbers="", spacing='w:before="0" w:after="0" w:line="120" w:lineRule="exact"')
    yield Style("Gap", "Gap", paragraph=str(gap), letters=size(4))


def _headings(looks: Looks, numbers: int) -> Iterable[Style]:
    sizes = looks.letters.headings or (looks.letters.size,)
    font = looks.letters.heading_font
    for level in range(1, DEEPEST + 1):
        points = sizes[min(level, len(sizes)) - 1]
        told = Properties(
            keepNext="", keepLines="", spacing=_spaced(points * (1.5 if level == 1 else 1.15), points * 0.5, 1.1)
        )
        told.add("outlineLvl", f'w:val="{level - 1}"')
        if numbers:
            told.add("numPr", f'<w:ilvl w:val="{level - 1}"/><w:numId w:val="{numbers}"/>')
        slant = ITALIC if level > 3 else ""
        yield Style(f"Heading{level}", f"heading {level}", following="BodyText", paragraph=str(told), letters=f"{BOLD}{slant}{size(points)}", fonts=font, colour=looks.colours.ink, own=False, quick=True)  # fmt: skip
    width = 21 - 2 * looks.sheets.sides
    dots = f'<w:tab w:val="right" w:leader="dot" w:pos="{twips(width)}"/>'
    for level in range(1, DEEPEST + 1):
        entry = Properties(
            tabs=dots, spacing=_spaced(after=2, line=1.1), ind=f'w:left="{(level - 1) * 280}" w:right="400"'
        )
        yield Style(f"TOC{level}", f"toc {level}", following="Normal", paragraph=str(entry), own=False)
    yield Style("TableofFigures", "table of figures", following="Normal", paragraph=str(Properties(tabs=dots, spacing=_spaced(after=2, line=1.1), ind='w:right="400"')), own=False)  # fmt: skip
    for level in (1, 2):
        term = Properties(spacing=_spaced(after=2, line=1.1), ind=f'w:left="{level * 240}" w:hanging="240"')
        yield Style(f"Index{level}", f"index {level}", following="Normal", paragraph=str(term), own=False)
    above = Properties(keepNext="", spacing=_spaced(12, 6, 1.1))
    yield Style("TOCHeading", "TOC Heading", following="Normal", paragraph=str(above), letters=f"{BOLD}{size(sizes[min(1, len(sizes) - 1)])}", fonts=font, own=False)  # fmt: skip


def _of_title(looks: Looks) -> Iterable[Style]:
    letters, soft = looks.letters, looks.colours.soft
    quiet = {"suppressLineNumbers": "", "keepNext": ""}
    title = Properties(**quiet, spacing=_spaced(after=6, line=1.1))
    yield Style("Title", "Title", following="Subtitle", paragraph=str(title), letters=f"{BOLD}{size(letters.title)}", fonts=letters.heading_font, colour=looks.colours.ink, own=False, quick=True)  # fmt: skip
    part = Properties(
        keepNext="", keepLines="", spacing=_spaced(before=160, after=12, line=1.1), outlineLvl='w:val="0"'
    )
    yield Style("PartTitle", "Part Title", following="BodyText", paragraph=str(part), letters=f"{BOLD}{size(letters.title)}", fonts=letters.heading_font, colour=looks.colours.ink)  # fmt: skip
    yield Style("Subtitle", "Subtitle", following="Author", paragraph=str(Properties(**quiet, spacing=_spaced(after=10, line=1.1))), letters=f"{ITALIC}{size(letters.subtitle)}", colour=soft, own=False, quick=True)  # fmt: skip
    yield Style("Author", "Author", paragraph=str(Properties(**quiet, spacing=_spaced(before=6, line=1.1))), letters=f"{BOLD}{size(letters.author)}")  # fmt: skip
    small = Properties(suppressLineNumbers="", spacing=_spaced(line=1.1))
    yield Style("Affiliation", "Affiliation", paragraph=str(small), letters=size(letters.small), colour=soft)
    apart = Properties(suppressLineNumbers="", spacing=_spaced(before=6, line=1.1))
    yield Style("Date", "Date", paragraph=str(apart), letters=size(letters.small), colour=soft, own=False)
    head = Properties(keepNext="", suppressLineNumbers="", spacing=_spaced(before=14, after=4, line=1.1))
    yield Style("AbstractTitle", "Abstract Title", following="Abstract", paragraph=str(head), letters=f"{BOLD}{size(letters.small)}", colour=soft)  # fmt: skip
    edge = f'<w:left w:val="single" w:sz="16" w:space="10" w:color="{looks.colours.hair}"/>'
    sides = Properties(
        spacing=_spaced(after=4), ind='w:left="300"', **({} if looks.sheets.title_alone else {"pBdr": edge})
    )
    yield Style("Abstract", "Abstract", based="BodyText", paragraph=str(sides))
    yield Style("Keywords", "Keywords", paragraph=str(Properties(suppressLineNumbers="", spacing=_spaced(before=6, after=14, line=1.1))), letters=size(letters.small), colour=soft)  # fmt: skip


def _of_code(looks: Looks) -> Iterable[Style]:
    colours, letters = looks.colours, looks.letters

    def block(fill: str, edge: str) -> Properties:
        """Code and what it prints run from left to right, whatever the page's words do."""
        made = Properties(
            suppressLineNumbers="", bidi='w:val="0"', spacing=_spaced(6, 8, 1), ind='w:left="113" w:right="113"'
        )
        if fill:
            made.add("shd", f'w:val="clear" w:color="auto" w:fill="{fill}"')
        if edge:
            made.add("pBdr", f'<w:left w:val="single" w:sz="16" w:space="6" w:color="{edge}"/>')
        return made

    looks_of = f"{NO_PROOF}{size(letters.code)}"
    yield Style("CodeBlock", "Code Block", following="BodyText", paragraph=str(block(colours.tint, "")), letters=looks_of, fonts=letters.code_font, quick=True)  # fmt: skip
    yield Style("CodeAside", "Code Aside", paragraph=str(Properties(spacing=_spaced(after=2, line=1.1), ind='w:left="425" w:hanging="425"')), letters=size(letters.small), colour=colours.soft)  # fmt: skip
    told = (
        ("Output", "Output", "", colours.hair, ""),
        ("Notice", "Notice", colours.notice_tint, colours.notice, colours.notice),
        ("Failure", "Failure", colours.alarm_tint, colours.alarm, colours.alarm),
    )
    for key, name, fill, edge, ink in told:
        yield Style(key, name, following="BodyText", paragraph=str(block(fill, edge)), letters=looks_of, fonts=letters.code_font, colour=ink)  # fmt: skip


def _of_things(looks: Looks) -> Iterable[Style]:
    letters = looks.letters
    figure = Properties(keepNext="", suppressLineNumbers="", spacing=_spaced(8, 4, 1), jc='w:val="center"')
    yield Style("Figure", "Figure", following="Caption", paragraph=str(figure))
    caption = Properties(keepLines="", suppressLineNumbers="", spacing=_spaced(6, 8, 1.1))
    yield Style("Caption", "caption", following="BodyText", paragraph=str(caption), letters=size(letters.caption), colour=looks.colours.ink, own=False, quick=True)  # fmt: skip
    cell = Properties(suppressLineNumbers="", spacing=_spaced(1.5, 1.5, 1))
    yield Style("TableText", "Table Text", paragraph=str(cell), letters=size(letters.table), quick=True)
    yield Style("TableHead", "Table Head", based="TableText", paragraph=str(Properties(keepNext="")), letters=BOLD)
    yield Style("TableGroup", "Table Group", based="TableText", paragraph=str(Properties(keepNext="")), letters=ITALIC)
    note = Properties(keepLines="", suppressLineNumbers="", spacing=_spaced(2, 2, 1))
    yield Style("TableNote", "Table Note", following="BodyText", paragraph=str(note), letters=size(letters.table - 1), colour=looks.colours.soft)  # fmt: skip
    yield Style("Equation", "Equation", following="BodyText", paragraph=str(Properties(suppressLineNumbers="", spacing=_spaced(4, 4, 1))))  # fmt: skip
    yield Style("BoxTitle", "Box Title", following="BodyText", paragraph=str(Properties(keepNext="", spacing=_spaced(2, 4, 1.1))), letters=BOLD)  # fmt: skip
    yield Style("AboutHere", "Place Of Figure", paragraph=str(Properties(spacing=_spaced(6, 6), jc='w:val="center"')), letters=ITALIC, colour=looks.colours.soft)  # fmt: skip


def _characters(looks: Looks) -> Iterable[Style]:
    based, colours = "DefaultParagraphFont", looks.colours
    high = '<w:vertAlign w:val="superscript"/>'
    for kind in ("footnote", "endnote"):
        yield Style(f"{kind.title()}Reference", f"{kind} reference", "character", based, letters=high, own=False)
    yield Style("Hyperlink", "Hyperlink", "character", based, colour=colours.mark, own=False)
    yield Style(
        "CodeText", "Code Text", "character", based, letters=NO_PROOF, fonts=looks.letters.code_font, quick=True
    )
    for role in ROLES:
        ink = getattr(colours, role)
        yield Style(
            f"Code{role.title()}", f"Code {role.title()}", "character", based, letters=f'<w:color w:val="{ink}"/>'
        )
    yield Style(
        "CodeLineNumber", "Code Line Number", "character", based, letters=f'<w:color w:val="{colours.comment}"/>'
    )
    yield Style("CodeMark", "Code Mark", "character", based, letters=f'<w:color w:val="{colours.mark}"/>')


def _tables(looks: Looks) -> Iterable[Style]:
    colours = looks.colours

    def line(side: str, eighths: int, colour: str) -> str:
        return f'<w:{side} w:val="single" w:sz="{eighths}" w:space="0" w:color="{colour}"/>'

    def room(up: int, aside: int) -> str:
        sides = (("top", up), ("left", aside), ("bottom", up), ("right", aside))
        return (
            "<w:tblCellMar>"
            + "".join(f'<w:{side} w:w="{width}" w:type="dxa"/>' for side, width in sides)
            + "</w:tblCellMar>"
        )

    ends = line("top", 8, colours.ink) + line("bottom", 8, colours.ink)
    yield Style("RuledTable", "Ruled Table", "table", "TableNormal", table=f"<w:tblPr><w:tblBorders>{ends}</w:tblBorders>{room(10, 85)}</w:tblPr>")  # fmt: skip
    for key, name, fill, edge in (
        ("Box", "Box", colours.tint, colours.mark),
        ("CautionBox", "Caution Box", colours.alarm_tint, colours.alarm),
    ):
        shade = f'<w:tcPr><w:shd w:val="clear" w:color="auto" w:fill="{fill}"/></w:tcPr>'
        yield Style(key, name, "table", "TableNormal", table=f"<w:tblPr><w:tblBorders>{line('left', 16, edge)}</w:tblBorders>{room(100, 200)}</w:tblPr>{shade}")  # fmt: skip
    yield Style("Columns", "Columns", "table", "TableNormal", table=f"<w:tblPr>{room(0, 85)}</w:tblPr>")


def defaults(looks: Looks, language: str, rtl: bool) -> str:
    """What all text begins with: `w:docDefaults`, and the styles that every document has."""
    letters, font = looks.letters, escaped(looks.letters.font)
    lang = f'<w:lang w:val="{language}" w:eastAsia="{language}" w:bidi="{language}"/>'
    height = f'<w:spacing w:line="{round(looks.lines.height * 240)}" w:lineRule="auto"/>'
    return (
        f'<w:docDefaults><w:rPrDefault><w:rPr><w:rFonts w:ascii="{font}" w:hAnsi="{font}" w:eastAsia="{font}" w:cs="{font}"/>'
        f'<w:color w:val="{looks.colours.ink}"/>{size(letters.size)}{lang}</w:rPr></w:rPrDefault>'
        f"<w:pPrDefault><w:pPr>{'<w:bidi/>' if rtl else ''}{height}</w:pPr></w:pPrDefault></w:docDefaults>"
        '<w:style w:type="paragraph" w:default="1" w:styleId="Normal"><w:name w:val="Normal"/><w:qFormat/></w:style>'
        '<w:style w:type="character" w:default="1" w:styleId="DefaultParagraphFont"><w:name w:val="Default Paragraph Font"/>'
        '<w:uiPriority w:val="1"/><w:semiHidden/><w:unhideWhenUsed/></w:style>'
        '<w:style w:type="table" w:default="1" w:styleId="TableNormal"><w:name w:val="Normal Table"/><w:uiPriority w:val="99"/>'
        '<w:semiHidden/><w:unhideWhenUsed/><w:tblPr><w:tblInd w:w="0" w:type="dxa"/><w:tblCellMar><w:top w:w="0" w:type="dxa"/>'
        '<w:left w:w="108" w:type="dxa"/><w:bottom w:w="0" w:type="dxa"/><w:right w:w="108" w:type="dxa"/></w:tblCellMar></w:tblPr></w:style>'
        '<w:style w:type="numbering" w:default="1" w:styleId="NoList"><w:name w:val="No List"/><w:uiPriority w:val="99"/>'
        "<w:semiHidden/><w:unhideWhenUsed/></w:style>"
    )
