"""What the user should know before locking: a sentence at its field, and a remedy to press."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Caveat:
    """``change`` is what the remedy does to the plan's document, ``remedy`` what its button says."""

    field: str
    text: str
    remedy: str = ""
    change: Mapping[str, Any] | None = None
