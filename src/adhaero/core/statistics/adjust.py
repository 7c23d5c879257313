"""P values adjusted for being several (S. Holm, Scand. J. Statist. 6, 1979)."""

from __future__ import annotations

from collections.abc import Sequence


def step_alphas(p: Sequence[float], alpha: float) -> list[float]:
    """At which alpha the interval of each of several agrees with Holm's tests: that of its own step for those that are
    told apart, that of the step where the procedure stopped for all others.
    """
    order = sorted(range(len(p)), key=p.__getitem__)
    found, stopped = [alpha] * len(p), 0.0
    for step, index in enumerate(order):
        own = alpha / (len(p) - step)
        if not stopped and p[index] >= own:
            stopped = own
        found[index] = stopped or own
    return found


def holm(p: Sequence[float]) -> list[float]:
    """Holm's step-down adjustment, in the order given."""
    order = sorted(range(len(p)), key=p.__getitem__)
    adjusted, running = [0.0] * len(p), 0.0
    for step, index in enumerate(order):
        running = max(running, min(1.0, p[index] * (len(p) - step)))
        adjusted[index] = running
    return adjusted
