"""Ordinary pages as scientists, teachers and analysts write them, with what each must show."""
