"""Make the mathematics font that HTML pages carry, from `STIXMath-Regular.otf` (SIL Open Font License 1.1).

Keeps what the commands of mathematics can write, and drops hints and names: `tools/make_math_font.py PATH`. The font goes
by a name of its own, as its licence asks of changed versions.
"""

from __future__ import annotations

import sys
from pathlib import Path

from fontTools import subset
from fontTools.ttLib import TTFont

TARGET = Path(__file__).parent.parent / "src/wornpage/output/html/mathematics.otf"
LETTERS = [
    *range(0x20, 0x7F), *range(0xA0, 0x180), *range(0x2B0, 0x300), *range(0x300, 0x340), *range(0x370, 0x400),
    *range(0x2010, 0x2060), *range(0x20D0, 0x20F0), *range(0x2100, 0x2150), *range(0x2190, 0x2300), *range(0x2300, 0x2400),
    *range(0x25A0, 0x2670), *range(0x27C0, 0x2800), *range(0x2900, 0x2B00), *range(0x1D400, 0x1D800),
]  # fmt: skip
NAME = "Worn Mathematics"


def make(source: Path) -> None:
    """Write the font."""
    font = TTFont(source)
    options = subset.Options()
    options.layout_features = ["ssty", "dtls", "flac"]
    options.hinting = False
    options.desubroutinize = True
    options.drop_tables += ["FFTM", "DSIG", "GPOS"]
    options.name_IDs = [1, 2, 4, 6, 13]
    subsetter = subset.Subsetter(options)
    subsetter.populate(unicodes=LETTERS)
    subsetter.subset(font)
    for record in list(font["name"].names):
        if record.nameID in {1, 4}:
            font["name"].setName(NAME, record.nameID, record.platformID, record.platEncID, record.langID)
        elif record.nameID == 6:
            font["name"].setName(NAME.replace(" ", ""), 6, record.platformID, record.platEncID, record.langID)
    _mend_bars(font)
    top = font["CFF "].cff
    top.fontNames = [NAME.replace(" ", "")]
    for field in ("FamilyName", "FullName"):
        setattr(top.topDictIndex[0], field, NAME)
    font.save(TARGET)
    print(f"{TARGET}: {TARGET.stat().st_size:,} bytes, {len(font.getGlyphOrder())} glyphs")


def _mend_bars(font: TTFont) -> None:
    """Let upright bars grow: browsers pass over signs that have parts to be built of and no size of their own."""
    from fontTools.ttLib.tables import otTables

    variants = font["MATH"].table.MathVariants
    for glyph, construction in zip(variants.VertGlyphCoverage.glyphs, variants.VertGlyphConstruction, strict=True):
        if construction.MathGlyphVariantRecord or not construction.GlyphAssembly:
            continue
        parts = construction.GlyphAssembly.PartRecords
        record = otTables.MathGlyphVariantRecord()
        record.VariantGlyph, record.AdvanceMeasurement = glyph, parts[0].FullAdvance
        construction.MathGlyphVariantRecord = [record]
        construction.VariantCount = 1
        for part in parts:
            part.StartConnectorLength = part.EndConnectorLength = part.FullAdvance // 2


if __name__ == "__main__":
    make(Path(sys.argv[1]))
