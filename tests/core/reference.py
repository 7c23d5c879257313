"""Reads the reference cases and compares numbers by their stated tolerance."""

from __future__ import annotations

import json
import math
import os
from pathlib import Path
from typing import Any

FOLDER = Path(os.environ.get("ADHAERO_REFERENCE_DIR") or Path(__file__).parent.parent / "reference")


def cases(topic: str) -> list[Any]:
    """All cases of a topic, in file order."""
    return json.loads((FOLDER / f"{topic}.json").read_text())["cases"]


def names(case: Any) -> str:
    return str(case["name"])


def agree(actual: float | None, expected: float | None, case: Any, what: str) -> None:
    """Assert that a number agrees with the expected one; ``None`` only with ``None``."""
    if expected is None or actual is None:
        assert actual == expected, f"{what}: {actual} instead of {expected}"
        return
    allowed = (case.get("atol") or 0) + case["rtol"] * abs(expected)
    assert math.isfinite(actual), what
    assert abs(actual - expected) <= allowed, f"{what}: {actual!r} instead of {expected!r}"
