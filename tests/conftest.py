"""What all tests share: the screenless platform, and the demo, made once."""

from __future__ import annotations

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from hypothesis import settings

from summula.core.folio import Opened
from summula.demo.folio import demo_folio

settings.register_profile("steady", deadline=None, max_examples=60, print_blob=True)
settings.load_profile("steady")


@pytest.fixture(scope="session")
def demo() -> Opened:
    return demo_folio()
