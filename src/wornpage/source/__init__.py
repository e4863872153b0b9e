"""From text to tree: front matter, chunks, marks and blocks, each with its place in the file."""

from wornpage.source.builder import build, build_inlines
from wornpage.source.naming import fresh_label
from wornpage.source.page import FrontMatter, Page
from wornpage.source.reader import parse_page, read_page

__all__ = ["FrontMatter", "Page", "build", "build_inlines", "fresh_label", "parse_page", "read_page"]
