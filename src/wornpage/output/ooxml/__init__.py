"""What all files of Office Open XML share: the package, escaped letters, formulas, pictures."""
