"""What a change changed: one pressing against another, number by number."""
