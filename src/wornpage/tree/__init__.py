"""The document model: nodes, formulas, tables, spans and problems. Imports nothing of ours."""
