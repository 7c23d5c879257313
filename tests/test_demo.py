"""The demo workshop: made by the rules, relative to its day, kept for the day; and the command beside it."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from adhaero import cli
from adhaero.store import rigs, shop
from adhaero.store.database import Database
from adhaero.workflow import today, undoing
from adhaero.workflow.breaking import queue
from adhaero.workflow.compare import comparison
from adhaero.workflow.context import AppContext, moment
from adhaero.workflow.glue import gluing

NOW = datetime(2026, 11, 23, 16, 50, tzinfo=UTC)


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory) -> AppContext:
    path = tmp_path_factory.mktemp("demo") / "adhaero.db"
    cli.fill_demo(path, 4545, lambda: NOW)
    return AppContext(Database(path), lambda: NOW, lambda: 1)


def test_it_is_whole(made: AppContext) -> None:
    assert made.db.check() == []


def test_one_batch_of_each_sort(made: AppContext) -> None:
    view = today.view(made)
    by_name = {p.batch.name: p for p in view.batches}
    assert len(by_name) == 5
    finished = by_name["Runner laminations"]
    assert finished.observed == finished.pieces == finished.measured == 28
    at_rig = by_name["When to strip the form"]
    assert 0 < at_rig.observed < at_rig.pieces
    assert by_name["Loose bridle joints"].in_clamps > 0
    assert not by_name["Oily robinia: wipe or not"].locked
    ageing = by_name["Last winter's pieces"]
    assert 0 < ageing.observed < ageing.pieces


def test_something_is_due_now_soon_and_late(made: AppContext) -> None:
    ahead = [(moment(d.at) - NOW).total_seconds() for d in today.view(made).due]
    assert ahead == sorted(ahead)
    assert any(a < 0 for a in ahead)
    assert any(0 < a < 7200 for a in ahead)
    assert any(a > 100 * 86400 for a in ahead)


def test_nothing_happened_in_the_future(made: AppContext) -> None:
    for p in today.view(made).batches:
        assert all(moment(a.at) <= NOW for a in undoing.history(made, p.batch.id))


def test_it_shows_every_sort_of_observation(made: AppContext) -> None:
    kinds = {r.kind for b in (1, 2, 3) for r in queue.view(made, b).rows}
    assert kinds >= {"exact", "at_least", "between", "void", None}


def test_bounds_of_the_demo_are_not_averaged(made: AppContext) -> None:
    rows = {t.letter: t for t in comparison.compare(made, 3).treatments}
    bounded = [t for t in rows.values() if t.bounded]
    assert bounded
    assert all(t.mean is None and t.sd is None and t.ci_low is None for t in bounded)


def test_the_same_day_gives_the_same_data(made: AppContext, tmp_path: Path) -> None:
    cli.fill_demo(tmp_path / "again.db", 4545, lambda: NOW)
    again = AppContext(Database(tmp_path / "again.db"), lambda: NOW, lambda: 1)
    for batch in (1, 2, 3):
        assert queue.view(again, batch).rows == queue.view(made, batch).rows
    assert gluing.view(again, 4).pieces == gluing.view(made, 4).pieces


def test_kept_for_the_day_and_put_aside_the_next(tmp_path: Path) -> None:
    path = tmp_path / "adhaero.db"
    cli.fill_demo(path, 1111, lambda: NOW)
    with Database(path).write() as conn:
        shop.save_settings(conn, {"person": "Somebody"}, None)
    cli.fill_demo(path, 2222, lambda: NOW + timedelta(hours=3))
    with Database(path).read() as conn:
        assert shop.settings(conn)["person"] == "Somebody", "what was played with today stays"
        used = rigs.in_use(conn)
        assert used is not None
        assert used.port == "socket://127.0.0.1:2222"
    cli.fill_demo(path, 3333, lambda: NOW + timedelta(days=1))
    with Database(path).read() as conn:
        assert shop.settings(conn)["person"] == "Second maker"
    aside = [p for p in tmp_path.iterdir() if p.suffix == ".db" and p != path]
    assert len(aside) == 1
    assert Database(aside[0]).check() == []


def test_check_and_backup_commands(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    cli.fill_demo(tmp_path / "adhaero.db", 4545, lambda: NOW)
    cli.main(["check", "--data", str(tmp_path)])
    assert "in order" in capsys.readouterr().out
    cli.main(["backup", "--data", str(tmp_path), str(tmp_path / "copy.db")])
    assert Database(tmp_path / "copy.db").check() == []
    with Database(tmp_path / "adhaero.db").write() as conn:
        conn.execute("DELETE FROM adherend WHERE specimen_id = 1")
    with pytest.raises(SystemExit):
        cli.main(["check", "--data", str(tmp_path)])
    assert "adherends" in capsys.readouterr().out


def test_commands_without_data_say_so(tmp_path: Path) -> None:
    for command in (["check"], ["backup", str(tmp_path / "x.db")]):
        with pytest.raises(SystemExit, match="no data"):
            cli.main([command[0], "--data", str(tmp_path / "empty"), *command[1:]])
