"""Tests of LaTeX sources and of what a TeX makes of them."""
