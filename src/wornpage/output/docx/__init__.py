"""Documents for word processors (ISO/IEC 29500, transitional): native headings, captions, fields, notes, formulas and tables."""
