"""Tests of the page in the browser while it is written."""
