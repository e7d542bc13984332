"""Moving, resizing and removing panels: always inside the grid, never on top of one another."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any, Literal, assert_never

from msgspec.structs import replace

from summula.core.boards.board import COLUMNS, Board, Panel, Place
from summula.core.boards.panelkinds import kind_of

if TYPE_CHECKING:
    from summula.core.slicing.slicer import Slicer

MOST_ROWS = 400


def placed(board: Board, panel_id: str, place: Place) -> Board:
    """The board with one panel at `place` (kept inside the grid); panels in its way move down."""
    return with_places(board, {panel_id: place})


def _at(panel: Panel, place: Place) -> Panel:
    return replace(panel, place=place)


def _settled(panels: tuple[Panel, ...], *first: str) -> tuple[Panel, ...]:
    """Panels that overlap one settled before them move down, from the top; the `first` ones stay where they are."""
    settled: dict[str, Panel] = {}
    order = sorted(panels, key=lambda p: (not p.locked, p.id not in first, p.place.row, p.place.column))
    for panel in order:
        place = panel.place
        if kind_of(panel).behind or panel.locked:  # others may lie on it; or it stays where it is
            settled[panel.id] = panel
            continue
        while any(place.overlaps(other.place) for other in settled.values() if not kind_of(other).behind):
            place = Place(place.column, place.row + 1, place.width, place.height)
        settled[panel.id] = _at(panel, place)
    return tuple(settled[panel.id] for panel in panels)


def free_place(board: Board, width: int, height: int) -> Place:
    """The first free place of this size, from the top left."""
    for row in range(board.rows + 1):
        for column in range(COLUMNS - width + 1):
            place = Place(column, row, width, height)
            if not any(place.overlaps(panel.place) for panel in board.panels if not kind_of(panel).behind):
                return place
    return Place(0, board.rows, width, height)


def with_panel(board: Board, panel: Panel) -> Board:
    return replace(board, panels=(*board.panels, panel))


def without_panel(board: Board, panel_id: str) -> Board:
    """The board without a panel, and without what slicers said of it."""
    slicers = tuple(replace(s, spares=tuple(each for each in s.spares if each != panel_id)) for s in board.slicers)
    panels = tuple(panel for panel in board.panels if panel.id != panel_id)
    return replace(board, panels=panels, slicers=slicers)


def with_panel_changed(board: Board, panel_id: str, **changes: Any) -> Board:
    panels = tuple(replace(panel, **changes) if panel.id == panel_id else panel for panel in board.panels)
    return replace(board, panels=panels)


def with_slicer(board: Board, slicer: Slicer) -> Board:
    """The board with a slicer added, or in the place of the one with its id."""
    if any(each.id == slicer.id for each in board.slicers):
        slicers = tuple(slicer if each.id == slicer.id else each for each in board.slicers)
    else:
        slicers = (*board.slicers, slicer)
    return replace(board, slicers=slicers)


def without_slicer(board: Board, slicer_id: str) -> Board:
    return replace(board, slicers=tuple(each for each in board.slicers if each.id != slicer_id))


# -- several at once ------------------------------------------------------------------------------------------

Edge = Literal["left", "right", "top", "bottom", "middle", "centre"]


def chosen_panels(board: Board, ids: Sequence[str]) -> list[Panel]:
    """Those panels, without the locked ones, in the order in which they were chosen."""
    known = {panel.id: panel for panel in board.panels}
    return [known[each] for each in ids if each in known and not known[each].locked]


def with_places(board: Board, places: Mapping[str, Place]) -> Board:
    """The board with several panels placed at once, kept inside the grid; others in their way move down."""
    fixed = {}
    for panel in board.panels:
        if panel.id in places and not panel.locked:
            fixed[panel.id] = _inside(places[panel.id], kind_of(panel).smallest)
    panels = tuple(_at(panel, fixed[panel.id]) if panel.id in fixed else panel for panel in board.panels)
    return replace(board, panels=_settled(panels, *fixed))


def _inside(place: Place, least: tuple[int, int]) -> Place:
    width = min(max(place.width, least[0]), COLUMNS)
    height = min(max(place.height, least[1]), MOST_ROWS)
    return Place(min(max(place.column, 0), COLUMNS - width), min(max(place.row, 0), MOST_ROWS), width, height)


def moved(board: Board, ids: Sequence[str], columns: int, rows: int) -> Board:
    """Several panels moved together, as far as all of them stay inside."""
    chosen = chosen_panels(board, ids)
    if not chosen:
        return board
    columns = max(columns, -min(p.place.column for p in chosen))
    columns = min(columns, COLUMNS - max(p.place.column + p.place.width for p in chosen))
    rows = max(rows, -min(p.place.row for p in chosen))
    places = {p.id: _shifted(p.place, columns, rows) for p in chosen}
    return with_places(board, places)


def _shifted(place: Place, columns: int, rows: int) -> Place:
    return Place(place.column + columns, place.row + rows, place.width, place.height)


def grown(board: Board, ids: Sequence[str], wider: int, taller: int) -> Board:
    places = {}
    for panel in chosen_panels(board, ids):
        place = panel.place
        places[panel.id] = Place(place.column, place.row, place.width + wider, place.height + taller)
    return with_places(board, places)


def aligned(board: Board, ids: Sequence[str], edge: Edge) -> Board:
    """All of them at the edge (or the middle) of the first."""
    chosen = chosen_panels(board, ids)
    if len(chosen) < 2:
        return board
    first = chosen[0].place

    def at(place: Place) -> Place:
        match edge:
            case "left":
                return replace(place, column=first.column)
            case "right":
                return replace(place, column=first.column + first.width - place.width)
            case "top":
                return replace(place, row=first.row)
            case "bottom":
                return replace(place, row=first.row + first.height - place.height)
            case "centre":
                return replace(place, column=first.column + (first.width - place.width) // 2)
            case "middle":
                return replace(place, row=first.row + (first.height - place.height) // 2)
            case _:
                assert_never(edge)

    return with_places(board, {panel.id: at(panel.place) for panel in chosen})


def equalised(board: Board, ids: Sequence[str], *, width: bool = True, height: bool = True) -> Board:
    """All of them as wide, or as high, as the first."""
    chosen = chosen_panels(board, ids)
    if len(chosen) < 2:
        return board
    first = chosen[0].place
    return with_places(board, {
        panel.id: replace(
            panel.place,
            width=first.width if width else panel.place.width,
            height=first.height if height else panel.place.height,
        )
        for panel in chosen
    })  # fmt: skip


def distributed(board: Board, ids: Sequence[str], *, down: bool = False) -> Board:
    """Equal gaps between all of them, the outermost staying where they are; what does not divide goes to the first
    gaps."""
    chosen = sorted(chosen_panels(board, ids), key=lambda p: p.place.row if down else p.place.column)
    if len(chosen) < 3:
        return board
    sizes = [p.place.height if down else p.place.width for p in chosen]
    begins = [p.place.row if down else p.place.column for p in chosen]
    spare = begins[-1] + sizes[-1] - begins[0] - sum(sizes)
    gap, more = divmod(max(spare, 0), len(chosen) - 1)
    at, places = begins[0], {}
    for nth, panel in enumerate(chosen):
        places[panel.id] = replace(panel.place, row=at) if down else replace(panel.place, column=at)
        at += sizes[nth] + gap + (1 if nth < more else 0)
    return with_places(board, places)


def ordered(board: Board, ids: Sequence[str], *, behind: bool) -> Board:
    """Those panels behind all others, or before them."""
    chosen = tuple(panel for panel in board.panels if panel.id in ids)
    others = tuple(panel for panel in board.panels if panel.id not in ids)
    return replace(board, panels=(*chosen, *others) if behind else (*others, *chosen))


def locked(board: Board, ids: Sequence[str], *, lock: bool) -> Board:
    panels = tuple(replace(panel, locked=lock) if panel.id in ids else panel for panel in board.panels)
    return replace(board, panels=panels)


def without_panels(board: Board, ids: Sequence[str]) -> Board:
    for panel in chosen_panels(board, ids):
        board = without_panel(board, panel.id)
    return board


def put_beside(board: Board, panels: Sequence[Panel], ids: Sequence[str]) -> Board:
    """The board with copies of panels under these ids, together in the first free place that holds them as they stand
    to each other."""
    if not panels:
        return board
    left, top = min(p.place.column for p in panels), min(p.place.row for p in panels)
    width = max(p.place.column + p.place.width for p in panels) - left
    height = max(p.place.row + p.place.height for p in panels) - top
    free = free_place(board, min(width, COLUMNS), height)
    copies = tuple(
        replace(
            panel, id=key, locked=False,
            place=_shifted(panel.place, free.column - left, free.row - top),
        )
        for panel, key in zip(panels, ids, strict=True)
    )  # fmt: skip
    return replace(board, panels=(*board.panels, *copies))
