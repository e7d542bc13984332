"""What a second look says."""

from __future__ import annotations

import msgspec


class SecondLook(msgspec.Struct, frozen=True):
    """What was noticed, in a few words, and why it matters. `remedy` is what can be done about it at once: its words,
    and a name by which the page knows it."""

    title: str
    text: str
    remedy: str = ""
    edit_name: str = ""
