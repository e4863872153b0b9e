"""Bringing back what people have changed in a document: their edits into the page's source, their comments beside it."""
