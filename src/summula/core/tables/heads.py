"""Field names from a file's heads."""

from __future__ import annotations


def clear_names(names: list[str]) -> list[str]:
    """Heads made usable: spaces trimmed, empty ones numbered, repeated ones told apart."""
    taken: set[str] = set()
    clear = []
    for at, name in enumerate(names, start=1):
        base = " ".join(name.split()) or f"Field {at}"
        unique, copy = base, 2
        while unique.casefold() in taken:
            unique, copy = f"{base} ({copy})", copy + 1
        taken.add(unique.casefold())
        clear.append(unique)
    return clear
