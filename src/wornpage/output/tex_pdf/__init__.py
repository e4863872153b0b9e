"""The LaTeX source compiled by a TeX of this machine."""
