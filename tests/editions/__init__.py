"""Tests of many pressings of one page."""
