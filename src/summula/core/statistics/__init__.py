"""Distributions of a field: what its shape is at a glance."""
