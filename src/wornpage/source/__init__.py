"""From text to tree: front matter, chunks, marks and blocks, each with its place in the file."""

from wornpage.source.builder import build, build_inlines
from wornpage.source.inserting import all_blocks, all_chunks, opened, templates
from wornpage.source.naming import fresh_label, slug
from wornpage.source.page import FrontMatter, InsertedFile, Page
from wornpage.source.reader import parse_page, read_page
from wornpage.source.repeating import told_for
from wornpage.source.sections import Sections

__all__ = [
    "FrontMatter",
    "InsertedFile",
    "Page",
    "Sections",
    "all_blocks",
    "all_chunks",
    "build",
    "build_inlines",
    "fresh_label",
    "opened",
    "parse_page",
    "read_page",
    "slug",
    "templates",
    "told_for",
]
