"""Tests of help in editors."""
