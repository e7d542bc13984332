"""A made-up ferry company among made-up islands: its tables, from a seeded generator, and its folio."""
