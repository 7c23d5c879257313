"""Reads the reference cases and compares numbers by their stated tolerance."""

from __future__ import annotations

import json
import math
import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any

FOLDER = Path(os.environ.get("ADHAERO_REFERENCE_DIR") or Path(__file__).parents[2] / "reference")


def topics() -> list[str]:
    """Every topic of the folder."""
    return sorted(f.stem for f in FOLDER.glob("*.json"))


def cases(topic: str) -> list[Any]:
    """All cases of a topic, in file order."""
    return json.loads((FOLDER / f"{topic}.json").read_text())["cases"]


def agree(actual: float | None, expected: float | None, case: Any, what: str) -> None:
    """Assert that a number agrees with the expected one; ``None`` only with ``None``."""
    if expected is None or actual is None:
        assert actual == expected, f"{what}: {actual} instead of {expected}"
        return
    allowed = (case.get("atol") or 0) + case["rtol"] * abs(expected)
    assert math.isfinite(actual), what
    assert abs(actual - expected) <= allowed, f"{what}: {actual!r} instead of {expected!r}"


def agree_all(actual: Mapping[str, float | None], expected: Mapping[str, Any], case: Any, what: str = "") -> None:
    """The same for all of ``actual``, by name."""
    for key, value in actual.items():
        agree(value, expected[key], case, f"{what} {key}".strip())


def bounds(specimen: Any) -> tuple[float, float]:
    """What is known of a specimen: from, to."""
    return specimen["lower"] or 0.0, math.inf if specimen["upper"] is None else specimen["upper"]


def by_group(specimens: Any) -> dict[str, list[Any]]:
    """Specimens by the name of their group, in order of first appearance."""
    found: dict[str, list[Any]] = {}
    for s in specimens:
        found.setdefault(s["group"], []).append(s)
    return found
