"""Answers into the tree: values, figures, tables, numbers, pointers, mathematics."""

from wornpage.compose.head import Head, read_head
from wornpage.compose.page import compose, compose_pages

__all__ = ["Head", "compose", "compose_pages", "read_head"]
