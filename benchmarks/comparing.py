"""How quickly treatments are compared: fits with bounds against the general library, and the whole of Compare."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from fastapi.testclient import TestClient
from scipy import stats

from adhaero.api.app import create_app
from adhaero.core.statistics.censored import fit
from benchmarks.big_batch import PIECES, big_batch


def _ms(what: Callable[[], object]) -> float:
    start = time.perf_counter()
    what()
    return 1000 * (time.perf_counter() - start)


def bounded_speed() -> None:
    """One treatment of ten pieces of which a third are bounds, by maximum likelihood."""
    rng = np.random.default_rng(3)
    loads = np.exp(rng.normal(8.3, 0.15, 10))
    held = np.arange(10) % 3 == 0
    data = [(float(x), np.inf if h else float(x)) for x, h in zip(loads, held, strict=True)]
    library = stats.CensoredData.right_censored(loads, held)
    fit(data)
    ours = statistics.median(_ms(lambda: fit(data)) for _ in range(30)) / 2
    theirs = statistics.median(_ms(lambda: stats.lognorm.fit(library, floc=0)) for _ in range(5))
    shape, _, scale = stats.lognorm.fit(library, floc=0)
    best = fit(data).fits["lognormal"]
    print("\nOne treatment with bounds, one shape")
    print(f"  ours {ours:.2f} ms, library {theirs:.1f} ms: ratio {theirs / ours:.0f}")
    print(f"  median apart by {abs(best.median / scale - 1):.1e}, scale by {abs(best.scale / shape - 1):.1e}")


def whole_of_compare(folder: Path) -> None:
    """All of Compare over HTTP for 128 treatments, 2,000 bootstrap draws: anew, again, and after one piece changed."""
    w, batch = big_batch(folder)
    with TestClient(create_app(w), base_url="http://127.0.0.1") as client:
        bare = statistics.median(_ms(lambda: client.post("/api/levels", json={"text": "1 mm"})) for _ in range(20))
        code = client.get(f"/api/batches/{batch}/break").json()["rows"][0]["code"]

        def compare() -> float:
            return _ms(lambda: client.get(f"/api/batches/{batch}/compare"))

        cold, warm, after = compare(), statistics.median(compare() for _ in range(5)), []
        for i in range(7):
            size = {"cells": [{"code": code, "quantity": "width", "text": f"20.{i}"}]}
            client.post(f"/api/batches/{batch}/sizes", json=size)
            after.append(compare())
    changed = statistics.median(after)
    print(f"\nThe whole of Compare for {PIECES} pieces in 128 treatments")
    print(f"  anew {cold:.0f} ms, again {warm:.0f} ms, after a change of one piece {changed:.0f} ms")
    print(f"  ratio to an answer without data: {cold / bare:.0f}, {warm / bare:.0f}, {changed / bare:.0f}")
