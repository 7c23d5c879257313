"""A proposal of glue and torn wood from the photo of a face; a person corrects it.

Torn wood is rough, glue smooth and even. Small patches of the picture are told apart into two heaps by their roughness,
and a little by their colour (k-means, which finds the two means that leave the least scatter within); the rougher heap
is wood. Where one is hardly rougher than the other, the face is all of one kind.
"""

from __future__ import annotations

import warnings

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

PATCH = 4
"""Pixels along the side of a patch."""
PATCHES = 4
"""Patches along the side of a field of the grid."""
CELL = PATCH * PATCHES
APART = 1.6
"""Two heaps are glue and wood where one is so many times as rough as the other."""
ROUGH = 0.018
"""A face of one kind is wood where its fine structure, over the root of its brightness, is above this."""
SETTLES = 6
LEAST_SHARE = 0.004
NOISE = np.array([0.002, 0.01, 0.01, 0.01])
"""Scatter that every feature has at least."""


def propose(rgb: Array, columns: int, rows: int) -> str:
    """What the fields of a face show by its picture: "w" or "g" each, row by row. ``rgb`` has the shape (rows x CELL,
    columns x CELL, 3), from 0 to 1.
    """
    features, rough = _patches(rgb)
    wood = _wood(features, rough)
    by_field = wood.reshape(rows, PATCHES, columns, PATCHES).mean(axis=(1, 3))
    return "".join("w" if share >= 0.5 else "g" for share in by_field.ravel())


def _patches(rgb: Array) -> tuple[Array, Array]:
    """Features of every patch (roughness, brightness, redness, yellowness), and its roughness: fine structure over the
    root of the brightness, as the noise of light itself goes.
    """
    # Loaded with the first photo: most starts of the program see none.
    from scipy.ndimage import gaussian_filter, median_filter, uniform_filter

    bright = rgb @ np.array([0.299, 0.587, 0.114])
    fine = np.abs(bright - gaussian_filter(bright, 2.0))
    # The median, so that the edge between glue and wood is no roughness of either.
    maps = [
        median_filter(fine, 3 * PATCH),
        bright,
        rgb[..., 0] - rgb[..., 1],
        (rgb[..., 0] + rgb[..., 1]) / 2 - rgb[..., 2],
    ]
    # A patch is smoothed over with its neighbours: heaps of wood and glue are larger than patches.
    smooth = [uniform_filter(m, PATCH) for m in maps]
    down = [m.reshape(m.shape[0] // PATCH, PATCH, -1, PATCH).mean(axis=(1, 3)).ravel() for m in smooth]
    rough = down[0] / np.sqrt(np.maximum(down[1], 0.02))
    return np.stack([rough, *down[1:]], axis=1), rough


def _wood(features: Array, rough: Array) -> Array:
    """1 for patches of wood. The heaps begin as rough and smooth, and settle by all features, each weighed by how
    little it scatters within the heaps (a linear discriminant without correlations).
    """
    from scipy.cluster.vq import kmeans2

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # an empty heap is a face of one kind, seen below
        _, heap = kmeans2(rough[:, None], 2, minit="++", rng=np.random.default_rng(1), iter=30)
    for _ in range(SETTLES):
        if np.bincount(heap, minlength=2).min() < LEAST_SHARE * len(heap):
            break
        a, b = features[heap == 0], features[heap == 1]
        means = np.stack([a.mean(axis=0), b.mean(axis=0)])
        within = (a.var(axis=0) * len(a) + b.var(axis=0) * len(b)) / len(heap) + NOISE**2
        heap = np.argmin((((features[:, None] - means) ** 2) / within).sum(axis=2), axis=1)
    sizes = np.bincount(heap, minlength=2)
    levels = [float(np.median(rough[heap == k])) if sizes[k] else 0.0 for k in (0, 1)]
    if sizes.min() < LEAST_SHARE * len(heap) or max(levels) < APART * min(levels):
        return np.full(len(heap), float(np.median(rough) > ROUGH))
    return np.asarray(heap == int(np.argmax(levels)), dtype=float)
