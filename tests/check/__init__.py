"""Tests of what is found without running."""
