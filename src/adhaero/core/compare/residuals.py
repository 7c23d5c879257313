"""What is left of each piece's figure once its treatment and what it shares with others are taken out."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

SWEEPS, STILL = 50, 1e-9


def residuals(figures: Sequence[float], treatments: Sequence[str], blocks: Sequence[str]) -> list[float]:
    """Residuals of the logarithms of ``figures`` (above 0) about additive means of treatments and blocks: the least
    squares fit, found by taking out both in turn until nothing moves.
    """
    left = np.log(np.array(figures))
    sides = [_places(treatments), _places(blocks)]
    for _ in range(SWEEPS):
        before = left
        for at in sides:
            left = left - (np.bincount(at, left) / np.bincount(at))[at]
        if float(np.abs(left - before).max(initial=0.0)) < STILL:
            break
    return [float(x) for x in left]


def _places(names: Sequence[str]) -> NDArray[np.intp]:
    place = {name: i for i, name in enumerate(dict.fromkeys(names))}
    return np.array([place[n] for n in names], np.intp)


def of_pieces(figures: Mapping[str, Sequence[tuple[str, float]]], block: Mapping[str, str]) -> dict[str, float]:
    """Residuals by code of pieces (``figures`` by treatment: code and figure). Those without a block have none, nor
    those whose figure is not above 0.
    """
    rows = [(code, v, t) for t, own in figures.items() for code, v in own if v > 0 and block.get(code)]
    if not rows:
        return {}
    found = residuals([v for _, v, _ in rows], [t for _, _, t in rows], [block[c] for c, _, _ in rows])
    return {code: x for (code, _, _), x in zip(rows, found, strict=True) if math.isfinite(x)}
