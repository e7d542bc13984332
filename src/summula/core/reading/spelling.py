"""Paths in messages of JSON: a file's name may be bytes that are no text."""

from __future__ import annotations

from pathlib import Path


def spelled(path: Path) -> str:
    return str(path).encode("utf-8", "surrogateescape").decode("latin-1")


def path_of(text: str) -> Path:
    """The path that `spelled` was given."""
    return Path(text.encode("latin-1").decode("utf-8", "surrogateescape"))
