"""What a pressing showed, as a record that is small enough to be kept: values, tables, figures and words, not what they were made of."""
