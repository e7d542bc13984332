"""The document: tables, summaries and boards as one frozen value; its file; its history."""

from summula.core.folio.history import History
from summula.core.folio.model import Folio, Summary, TableEntry
from summula.core.folio.opened import Opened

__all__ = ["Folio", "History", "Opened", "Summary", "TableEntry"]
