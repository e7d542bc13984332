"""Where a summary's own condition and a slicer of the board say different things of one field: it is told, with the
remedy."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.engine.conditions import holds_by_member
from summula.core.fields.heading import encode_heading
from summula.core.fields.labels import BLANK, label_of
from summula.core.phrases.printing import print_condition
from summula.core.slicing.slicer import ListSlicer, Slicer
from summula.core.slicing.slicerkinds import list_mask

if TYPE_CHECKING:
    from summula.core.phrases.phrase import Phrase
    from summula.core.tables.table import Table

_NAMED = 2  # members that are told by their names


def at_odds(phrase: Phrase, slicers: Sequence[Slicer]) -> str:
    """Why nothing is left: a condition of the summary and a slicer on the same field. Empty where they agree."""
    for condition in phrase.where:
        for slicer in slicers:
            if slicer.narrows and slicer.dimension.field == condition.heading.field:
                name = condition.heading.field
                return (
                    f"No rows match: this summary has the condition {print_condition(condition)}, which the slicer of "
                    f"{name} excludes. Clear the slicer, or let it not affect this panel (Arrange)."
                )
    return ""


def left_out_by(phrase: Phrase, slicers: Sequence[Slicer], table: Table) -> str:
    """What a slicer chose, and a condition of the summary leaves out; empty where there is nothing."""
    for condition in phrase.where:
        for slicer in slicers:
            if not isinstance(slicer, ListSlicer) or not slicer.narrows or slicer.heading != condition.heading:
                continue
            if not table.has(condition.heading.field):
                continue
            encoded = encode_heading(table, condition.heading)
            lost = np.flatnonzero(list_mask(slicer, encoded, table) & ~holds_by_member(condition, encoded, table))
            if len(lost):
                members = [encoded.member(int(code)) for code in lost[:_NAMED]]
                names = [BLANK if each is None else label_of(condition.heading, each) for each in members]
                more = f" and {len(lost) - _NAMED} more" if len(lost) > _NAMED else ""
                return f"Asks where {print_condition(condition)}: {', '.join(names)}{more} of the slicer excluded"
    return ""
