"""Serving pages to browsers: on loopback, unless somebody asks for more."""
