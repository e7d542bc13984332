"""The pivot grid: where everything stands, and how it is painted."""
