"""A folio's sources read again without the desk."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path

from summula.core.folio.model import with_table
from summula.core.folio.opened import Opened
from summula.core.folio.preparing import Preparing
from summula.core.folio.rereading import read_again, reading_account, settled


def refreshed(opened: Opened, table_ids: Sequence[str], path: Path) -> tuple[Opened, list[str]]:
    """The folio with these tables' sources read anew through the same preparation, and a sentence for each.

    Refuses as soon as one source cannot be read: then nothing has changed.
    """
    folio, tables = opened.folio, dict(opened.tables)
    rows = {(source.id, source.reading): tables[source.id] for entry in folio.tables for source in entry.sources()}
    preparing = Preparing(lambda source: rows[source.id, source.reading])
    before = {table_id: preparing.table(folio, table_id) for table_id in table_ids}
    for table_id in table_ids:
        reread = read_again(folio.table(table_id), path, datetime.now().strftime("%Y-%m-%d %H:%M"))
        rows |= {(source.id, source.reading): reread.tables[source.id] for source in reread.entry.sources()}
        tables |= reread.tables
        folio = with_table(folio, reread.entry)
    for entry in folio.tables:  # other tables may look up in those that were read
        folio = with_table(folio, settled(folio, entry, preparing))
    sentences = [
        reading_account((opened.folio.table(each), before[each]), (folio.table(each), preparing.table(folio, each)))
        for each in table_ids
    ]
    return Opened(folio, tables), sentences
