"""Fixtures shared by all tests."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from tests.running import App, open_app

# A busy machine is no fault of the code: nothing here is timed.
settings.register_profile("adhaero", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("adhaero")


@pytest.fixture
def app(tmp_path: Path) -> Iterator[App]:
    """A running application on an empty data file."""
    with open_app(tmp_path) as opened:
        yield opened
