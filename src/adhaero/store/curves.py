"""Raw force signals, appended while they come in."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def append(conn: sqlite3.Connection, pull_id: int, sequence: int, samples: Array) -> None:
    """Append rows of (s since the start of the pull, N, mm or NaN) to a pull's raw signal."""
    blob = np.ascontiguousarray(samples, dtype="<f8").tobytes()
    conn.execute("INSERT INTO curve_chunk (pull_id, sequence, samples) VALUES (?, ?, ?)", (pull_id, sequence, blob))


def chunks(conn: sqlite3.Connection, pull_id: int) -> Iterator[Array]:
    """The raw signal of a pull piece by piece, in order; each of shape (n, 3)."""
    rows = conn.execute("SELECT samples FROM curve_chunk WHERE pull_id = ? ORDER BY sequence", (pull_id,))
    for r in rows:
        yield np.frombuffer(r["samples"], dtype="<f8").reshape(-1, 3)


def curve(conn: sqlite3.Connection, pull_id: int) -> Array:
    """The whole raw signal of a pull: shape (n, 3)."""
    parts = list(chunks(conn, pull_id))
    return np.concatenate(parts) if parts else np.empty((0, 3))
