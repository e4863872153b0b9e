"""Several pages in an order, bound as one work: a site, or one document."""
