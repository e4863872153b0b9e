"""Tests of pages made from what exists, and scripts made from pages."""
