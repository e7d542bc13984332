"""Taking a picture into the folio."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtWidgets import QFileDialog, QWidget

from summula.core.charts.foliopicture import MOST_BYTES, FolioPicture, checked_picture
from summula.core.folio.model import taken_id
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.desk.session import Session


def ask_picture(anchor: QWidget, session: Session) -> str:
    """The id of a picture chosen from a file; empty where none is."""
    name, _ = QFileDialog.getOpenFileName(anchor.window(), "Choose a picture", "", "Pictures (*.png *.jpg *.jpeg)")
    return take_picture(session, Path(name)) if name else ""


def take_picture(session: Session, path: Path) -> str:
    """Keep a picture in the folio; its id, empty where it cannot be read."""
    try:
        with path.open("rb") as file:
            data = checked_picture(file.read(MOST_BYTES + 1))
    except OSError as fault:
        session.refuse(Refusal(f"{path.name} cannot be read: {fault.strerror}", "choose another file"))
        return ""
    except Refusal as refusal:
        session.refuse(refusal)
        return ""
    folio = session.folio
    known = next((each.id for each in folio.pictures if each.data == data), None)
    if known is not None:
        return known
    folio, key = taken_id(folio, "g")
    kept = FolioPicture(key, path.stem, data)
    session.edit(replace(folio, pictures=(*folio.pictures, kept)), f"Add the picture {path.name}")
    return key
