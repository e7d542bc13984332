"""What all tests share: the screenless platform, and the demo, made once."""

from __future__ import annotations

import os
from collections.abc import Iterator

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from hypothesis import settings

from summula.core.folio import Opened
from summula.demo.folio import demo_folio

settings.register_profile("steady", deadline=None, max_examples=60, print_blob=True)
settings.load_profile("steady")


@pytest.fixture(scope="session", autouse=True)
def own_cache(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """What is kept between starts is kept for one run of the tests."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("XDG_CACHE_HOME", str(tmp_path_factory.mktemp("cache")))
        yield


@pytest.fixture(scope="session")
def demo() -> Opened:
    return demo_folio()
