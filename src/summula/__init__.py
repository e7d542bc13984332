"""Summula: flat tables in; pivot summaries, charts and sliced boards out."""

__version__ = "0.1.0"
