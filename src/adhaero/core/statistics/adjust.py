"""P values adjusted for being several (S. Holm, Scand. J. Statist. 6, 1979)."""

from __future__ import annotations

from collections.abc import Sequence


def holm(p: Sequence[float]) -> list[float]:
    """Holm's step-down adjustment, in the order given."""
    order = sorted(range(len(p)), key=p.__getitem__)
    adjusted, running = [0.0] * len(p), 0.0
    for step, index in enumerate(order):
        running = max(running, min(1.0, p[index] * (len(p) - step)))
        adjusted[index] = running
    return adjusted
