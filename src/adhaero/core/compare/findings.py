"""What can be said of a comparison: each family of findings in a file of its own, all of them listed here.

A family is one function from a ``Case`` to its findings. A new one is a file and a line in ``FAMILIES``.
"""

from __future__ import annotations

from collections.abc import Callable

from adhaero.core.compare import advice, differences, efficiency, failure_modes, leverage, limitations
from adhaero.core.compare.case import Case, Finding

__all__ = ["FAMILIES", "Case", "Finding", "findings"]

FAMILIES: tuple[Callable[[Case], list[Finding]], ...] = (
    differences.find,
    efficiency.find,
    failure_modes.find,
    leverage.find,
    limitations.find,
    advice.find,
)


def findings(case: Case) -> list[Finding]:
    """All findings of a case, family by family."""
    return [f for family in FAMILIES for f in family(case)]
