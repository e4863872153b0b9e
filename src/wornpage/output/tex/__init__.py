"""LaTeX sources, for collaborators and journals that work in them."""
