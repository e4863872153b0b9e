"""Tests of workbooks."""
