"""A treatment of one study against one of another, tied by a reference that was broken in both.

What differs between the studies (rig, room, hand) acts on the reference as it acts on the treatments, as a share: so
each is taken as a share of its own study's reference. The difference of the two log ratios (contrasts.log_ratio_of) has
the sum of their variances, with Satterthwaite's degrees of freedom over all four means.
"""

from __future__ import annotations

import math

from adhaero.core.statistics.contrasts import Moments, log_ratio_of, satterthwaite
from adhaero.core.statistics.ratio import LogRatio

LEAST = 3
"""Pieces of each of the four below which there is no scatter to judge by."""


def tied(first: Moments, its_reference: Moments, second: Moments, own_reference: Moments) -> LogRatio | None:
    """``first`` against ``second``, each by its study's reference. ``None`` with fewer than three of any, a mean that
    is not above 0, or a pair without scatter.
    """
    if min(first.n, its_reference.n, second.n, own_reference.n) < LEAST:
        return None
    a, b = log_ratio_of(first, its_reference), log_ratio_of(second, own_reference)
    if a is None or b is None:
        return None
    middle, se = a.log_ratio - b.log_ratio, math.hypot(a.se, b.se)
    df = satterthwaite((*a.parts, *b.parts))
    return LogRatio.of(middle, se, df)
