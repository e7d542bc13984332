"""Something that can be found: an action, a page, a field, a setting, a step, a part of a phrase, a form, a section."""

from __future__ import annotations

from typing import Literal

import msgspec

What = Literal["action", "page", "field", "setting", "step", "phrase", "form", "manual"]


class Entry(msgspec.Struct, frozen=True):
    """`key` says which one of its sort it is; `synonyms` are what other people call it, a phrase each."""

    what: What
    key: tuple[str, ...]
    name: str
    hint: str = ""
    keys: str = ""  # the shortcut
    synonyms: tuple[str, ...] = ()
