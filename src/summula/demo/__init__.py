"""A made-up ferry company among made-up islands: its tables, from a seeded generator, and its folio."""

from summula.demo.company import sailings, targets
from summula.demo.files import write_files
from summula.demo.folio import demo_folio

__all__ = ["demo_folio", "sailings", "targets", "write_files"]
