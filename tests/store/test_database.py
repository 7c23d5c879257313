"""The data file: migrations on a copy, all-or-nothing writes, rules that hold in the file itself, backups."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import numpy as np
import pytest

from adhaero.store import actions, batches, copies, curves, pulls, rigs, specimens
from adhaero.store import database as database_module
from adhaero.store.actions import Act
from adhaero.store.database import Database
from tests.running import open_app

NOW = "2026-11-23T08:30:00.000Z"


@pytest.fixture
def db(tmp_path: Path) -> Database:
    made = Database(tmp_path / "adhaero.db")
    made.migrate()
    return made


def act(conn: sqlite3.Connection, **more: object) -> int:
    return actions.record(conn, Act("plan", "test", "Tested", **more), NOW)  # type: ignore[arg-type]


def test_a_new_file_is_whole(db: Database) -> None:
    assert db.version() == len(database_module._migrations())
    assert db.check() == []
    assert db.migrate() == []
    with db.read() as conn:
        assert conn.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert conn.execute("PRAGMA foreign_keys").fetchone()[0] == 1
        assert conn.execute("PRAGMA synchronous").fetchone()[0] == 2


def test_every_table_is_strict(db: Database) -> None:
    with db.read() as conn:
        loose = [r["name"] for r in conn.execute("PRAGMA table_list") if r["type"] == "table" and not r["strict"]]
    # The index of the search keeps its own tables as it needs them.
    assert [t for t in loose if not t.startswith(("sqlite_", "search_text"))] == []


def test_an_error_writes_nothing(db: Database) -> None:
    def half() -> None:
        with db.write() as conn:
            batches.add_batch(conn, "Half", NOW)
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        half()
    with db.read() as conn:
        assert batches.last_actions(conn) == {}


def test_a_reader_sees_one_state(db: Database) -> None:
    with db.read() as reader:
        assert batches.last_actions(reader) == {}
        with db.write() as writer:
            batches.add_batch(writer, "New", NOW)
        assert batches.last_actions(reader) == {}
    with db.read() as later:
        assert later.execute("SELECT count(*) FROM batch").fetchone()[0] == 1


def _with_migration(monkeypatch: pytest.MonkeyPatch, sql: str) -> None:
    real = database_module._migrations()
    monkeypatch.setattr(database_module, "_migrations", lambda: [*real, (len(real) + 1, "9999_more.sql", sql)])


def test_a_migration_is_backed_up_and_applied(db: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    with db.write() as conn:
        batches.add_batch(conn, "Old", NOW)
    _with_migration(monkeypatch, "CREATE TABLE more (id INTEGER PRIMARY KEY) STRICT;")
    old = db.version()
    assert db.migrate() == ["9999_more.sql"]
    assert db.version() == old + 1
    (copy,) = copies.listed(db)
    assert copy.why == copies.UPDATE
    before = Database(copies.folder_of(db) / copy.name)
    assert before.version() == old
    with before.read() as conn:
        assert batches.standing(conn, 1).batch.name == "Old"


def test_a_migration_that_fails_leaves_the_file_alone(db: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    _with_migration(monkeypatch, "CREATE TABLE more (id INTEGER PRIMARY KEY) STRICT; INSERT INTO nowhere VALUES (1);")
    old = db.version()
    with pytest.raises(sqlite3.OperationalError):
        db.migrate()
    assert db.version() == old
    with db.read() as conn:
        assert conn.execute("SELECT count(*) FROM sqlite_master WHERE name = 'more'").fetchone()[0] == 0
    assert [p.name for p in db.path.parent.iterdir() if "trial" in p.name or "before" in p.name] == []


def test_a_file_of_a_newer_program_is_not_touched(db: Database) -> None:
    conn = sqlite3.connect(db.path)
    conn.execute("PRAGMA user_version = 99")
    conn.close()
    with pytest.raises(database_module.Unusable, match="newer version"):
        db.migrate()


def test_backup_while_writing(db: Database, tmp_path: Path) -> None:
    with db.write() as conn:
        batches.add_batch(conn, "Kept", NOW)
        db.backup(tmp_path / "copy.db")
        batches.add_batch(conn, "Later", NOW)
    copy = Database(tmp_path / "copy.db")
    assert copy.check() == []
    with copy.read() as conn:
        assert batches.last_actions(conn) == {}


_SEEN = "INSERT INTO observation (specimen_id, source, at, action_id, kind, low_n, high_n) VALUES (1, 'typed', 'x', 1, "
_PIECE = "INSERT INTO specimen (code, batch_id, treatment_id, role, replicate, break_order, glue_order, action_id) "
BAD_ROWS = {
    "exact load of two numbers": _SEEN + "'exact', 1, 2)",
    "unknown kind": _SEEN + "'odd', 1, 1)",
    "at least with an upper end": _SEEN + "'at_least', 1, 2)",
    "between the wrong way round": _SEEN + "'between', 2, 1)",
    "held for no time": _SEEN + "'held', 2, NULL)",
    "void without a reason": _SEEN + "'void', NULL, NULL)",
    "negative load": _SEEN + "'exact', -1, -1)",
    "a load beyond any rig": _SEEN + "'exact', 2e6, 2e6)",
    "clamp pressure below nothing": "UPDATE specimen SET pressure_mpa = -1",
    "text in a number": "INSERT INTO measurement (specimen_id, quantity, value, at, action_id) "
    "VALUES (1, 'width', 'wide', 'x', 1)",
    "a specimen of no batch": _PIECE + "VALUES ('AAAA', 77, 1, 'solid', 1, 1, 1, 1)",
    "a code twice": _PIECE + "SELECT code, batch_id, treatment_id, role, 1, 1, 1, 1 FROM specimen",
    "a joint without glue": _PIECE + "VALUES ('AAAA', 1, 1, 'joint', 1, 1, 1, 1)",
    "no JSON": "INSERT INTO setting (key, value) VALUES ('x', '{')",
    "half a sample": "INSERT INTO curve_chunk VALUES (1, 0, x'00')",
    "humidity of 120 %": "INSERT INTO glueup (batch_id, number, started_at, humidity_pct, action_id) "
    "VALUES (1, 1, 'x', 120, 1)",
}


@pytest.mark.parametrize("sql", BAD_ROWS.values(), ids=list(BAD_ROWS))
def test_the_file_itself_refuses(tmp_path: Path, sql: str) -> None:
    with open_app(tmp_path) as app:
        app.locked("pva-damp", "casein")
        with pytest.raises(sqlite3.IntegrityError), app.context.db.write() as conn:
            conn.execute(sql)


def test_check_finds_what_constraints_cannot(tmp_path: Path) -> None:
    with open_app(tmp_path) as app:
        batch = app.locked("pva-damp", "casein")
        app.glue(batch)
        db = app.context.db
        assert db.check() == []
        with db.write() as conn:
            conn.execute("DELETE FROM adherend WHERE specimen_id = 1 AND side = 'b'")
            conn.execute(
                "INSERT INTO glueup_specimen (glueup_id, specimen_id, position, action_id) SELECT glueup_id, "
                "specimen_id, 9, action_id FROM glueup_specimen LIMIT 1"
            )
        assert db.check() == ["joints without both adherends: 1", "pieces in two glue-ups at once: 1"]


def test_curves_come_back_to_the_last_bit(tmp_path: Path) -> None:
    with open_app(tmp_path) as app:
        batch = app.locked("pva-damp", "casein")
        db = app.context.db
        samples = np.random.default_rng(1).normal(size=(1000, 3))
        samples[3, 2] = np.nan
        with db.write() as conn:
            setup = rigs.use(conn, rigs.SetUp(0, "Press", "Fixture", 5000.0, 1.0, 0.8), "", NOW, act(conn))
            piece = specimens.specimens(conn, batch)[0]
            pull = pulls.open_pull(conn, piece.id, setup, NOW, act(conn, batch_id=batch))
            for i in range(10):
                curves.append(conn, pull, i, samples[100 * i : 100 * i + 100])
        with db.read() as conn:
            assert np.array_equal(curves.curve(conn, pull), samples, equal_nan=True)
            assert curves.curve(conn, 999).shape == (0, 3)
        with pytest.raises(sqlite3.IntegrityError), db.write() as conn:
            pulls.open_pull(conn, piece.id, setup, NOW, act(conn, batch_id=batch))


def test_observations_come_through_the_rebuild_of_their_table(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    real = database_module._migrations()
    monkeypatch.setattr(database_module, "_migrations", lambda: real[:3])
    old = Database(tmp_path / "old.db")
    old.migrate()
    with sqlite3.connect(old.path) as conn:
        conn.executescript("""
            INSERT INTO batch VALUES (1, 'Old', '2026-01-01T00:00:00Z', NULL);
            INSERT INTO action (id, batch_id, stage, kind, summary, at) VALUES (1, 1, 'plan', 'lock', '', '');
            INSERT INTO treatment VALUES (1, 1, 'A', 'Casein', 'joint', NULL, 1, 1);
            INSERT INTO specimen (id, code, batch_id, treatment_id, role, replicate, break_order, glue_order, glue,
                orientation, prep, action_id) VALUES (1, 'AAAA', 1, 1, 'joint', 1, 1, 1, 'casein', 'x', 'planed', 1);
            INSERT INTO adherend (specimen_id, side, material, face)
                VALUES (1, 'a', 'ash', 'long'), (1, 'b', 'ash', 'long');
            INSERT INTO observation (id, specimen_id, kind, low_n, high_n, source, at, action_id)
                VALUES (4, 1, 'exact', 900, 900, 'rig', '', 1);
            INSERT INTO observation (id, specimen_id, kind, low_n, high_n, source, at, replaces_id, action_id)
                VALUES (7, 1, 'exact', 950, 950, 'typed', '', 4, 1);
        """)
    columns = "id, specimen_id, kind, low_n, high_n, source, at, replaces_id, action_id"
    with old.read() as conn:
        before = [tuple(r) for r in conn.execute(f"SELECT {columns} FROM observation ORDER BY id")]
    monkeypatch.setattr(database_module, "_migrations", lambda: real)
    new = Database(tmp_path / "old.db")
    new.migrate()
    assert new.check() == []
    with new.read() as conn:
        assert [tuple(r) for r in conn.execute(f"SELECT {columns} FROM observation ORDER BY id")] == before
        assert [r["id"] for r in conn.execute("SELECT id FROM current_observation")] == [7]
    with pytest.raises(sqlite3.IntegrityError), new.write() as conn:
        conn.execute("UPDATE observation SET replaces_id = 99 WHERE id = 7")
