"""What a claim may say in figures of one treatment against another."""

from __future__ import annotations

from collections.abc import Mapping

STRONGER, WEAKER, SAME, SHARE = "stronger", "weaker", "same", "share"
SAYS: Mapping[str, str] = {
    STRONGER: "is stronger than", WEAKER: "is weaker than", SAME: "is the same for practical purposes as",
    SHARE: "bears at least",
}  # fmt: skip
"""Key -> words."""
