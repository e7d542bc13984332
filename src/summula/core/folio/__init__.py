"""The document: tables, summaries and boards as one frozen value; its file; its history."""

from summula.core.folio.file import Opened, open_folio, save_folio
from summula.core.folio.history import History
from summula.core.folio.model import Folio, Summary, TableEntry

__all__ = ["Folio", "History", "Opened", "Summary", "TableEntry", "open_folio", "save_folio"]
