"""Pages as they are read: a board, a summary or a table as scenes, without Qt. The desk paints them, every format
writes them."""

from summula.core.composition.boardpages import compose_board
from summula.core.composition.composition import Composition, Page
from summula.core.composition.summarypages import compose_summary
from summula.core.composition.tablepages import compose_table

__all__ = ["Composition", "Page", "compose_board", "compose_summary", "compose_table"]
