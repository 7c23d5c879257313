"""Fixtures shared by all tests."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.workshop import Bench, open_bench


@pytest.fixture
def bench(tmp_path: Path) -> Iterator[Bench]:
    """A running application on an empty data file."""
    with open_bench(tmp_path) as opened:
        yield opened
