"""Connections that are kept: never shared by two at once, never left in a transaction, thrown away after an error."""

from __future__ import annotations

import sqlite3
import threading
from pathlib import Path

import pytest

from adhaero.store import batches
from adhaero.store import database as database_module
from adhaero.store.database import Database

NOW = "2026-11-23T08:30:00.000Z"


def count(conn: sqlite3.Connection) -> int:
    """Batches in the file."""
    return int(conn.execute("SELECT count(*) FROM batch").fetchone()[0])


@pytest.fixture
def db(tmp_path: Path) -> Database:
    made = Database(tmp_path / "adhaero.db")
    made.migrate()
    return made


def test_an_idle_connection_is_used_again(db: Database) -> None:
    with db.read() as first:
        pass
    with db.write() as second:
        assert second is first
        with db.read() as third:
            assert third is not second, "one in use is nobody else's"


def test_a_connection_comes_back_without_a_transaction(db: Database) -> None:
    with db.write() as conn:
        batches.add_batch(conn, "Kept", NOW)
    with db.read() as conn:
        assert count(conn) == 1
    assert [c.in_transaction for c in db._idle] == [False]


def test_after_an_error_the_connection_is_gone_and_nothing_is_written(db: Database) -> None:
    used: list[sqlite3.Connection] = []

    def half() -> None:
        with db.write() as conn:
            used.append(conn)
            batches.add_batch(conn, "Lost", NOW)
            conn.execute("SELECT * FROM nowhere")

    with pytest.raises(sqlite3.OperationalError):
        half()
    assert db._idle == []
    with pytest.raises(sqlite3.ProgrammingError):
        used[0].execute("SELECT 1")
    with db.read() as conn:
        assert count(conn) == 0


def test_a_reader_on_a_kept_connection_sees_what_was_written_since(db: Database) -> None:
    with db.read() as conn:
        assert count(conn) == 0
    other = Database(db.path)
    with other.write() as conn:
        batches.add_batch(conn, "New", NOW)
    with db.read() as conn:
        assert count(conn) == 1


def test_many_threads_write_and_read_at_once(db: Database) -> None:
    failed: list[BaseException] = []

    def work(number: int) -> None:
        try:
            for i in range(10):
                with db.write() as conn:
                    batches.add_batch(conn, f"{number}-{i}", NOW)
                with db.read() as conn:
                    assert count(conn) >= i + 1
        except BaseException as error:
            failed.append(error)

    threads = [threading.Thread(target=work, args=(n,)) for n in range(6)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert failed == []
    with db.read() as conn:
        assert count(conn) == 60
    assert len(db._idle) <= database_module.MOST_IDLE
