"""Answers into the tree: values, figures, tables, numbers, pointers, mathematics."""

from wornpage.compose.head import Head, read_head
from wornpage.compose.page import compose

__all__ = ["Head", "compose", "read_head"]
