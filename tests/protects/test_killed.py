"""kill -9 in the middle of pulls, time and again: nothing that was acknowledged is lost, nothing is there twice."""

from __future__ import annotations

import random
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from tests.e2e.server import Rig
from tests.protects.killing import Workshop

KILLS = 12


@pytest.mark.slow
def test_kill_nine_at_random_moments(tmp_path: Path) -> None:
    shop = Workshop(tmp_path, Rig(pump=1.0))
    rng = random.Random(20417)
    try:
        kills = [shop.kill_in_a_pull(rng) for _ in range(KILLS)]
    finally:
        shop.close()
    assert [k.code for k in kills if k.stored < k.acknowledged] == [], "what was said to be saved is"
    assert [k.code for k in kills if k.readings != 1] == []
    assert all(k.alive for k in kills)
    with closing(sqlite3.connect(tmp_path / "adhaero.db")) as conn:
        assert conn.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        states = dict(conn.execute("SELECT state, COUNT(*) FROM pull GROUP BY state").fetchall())
    assert states.get("open", 0) == 0
    assert sum(states.values()) == KILLS
