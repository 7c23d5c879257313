"""Copies: one a day, the last fourteen and one a month; whole or not there; put back only when they are sound."""

from __future__ import annotations

import sqlite3
from collections import namedtuple
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from adhaero.core.refusal import Refusal
from adhaero.store import actions, copies
from adhaero.store import database as database_module
from adhaero.store.actions import Act
from adhaero.store.database import Database, Unusable

NOW = datetime(2026, 11, 26, 18, 0, tzinfo=UTC)


@pytest.fixture
def db(tmp_path: Path) -> Database:
    made = Database(tmp_path / "adhaero.db")
    made.open_up()
    return made


def say(db: Database, name: str) -> None:
    with db.write() as conn:
        conn.execute("INSERT INTO batch (name, created_at) VALUES (?, ?)", (name, "2026-11-26T10:00:00.000Z"))


def names(path: Path) -> list[str]:
    conn = sqlite3.connect(path)
    try:
        return [r[0] for r in conn.execute("SELECT name FROM batch ORDER BY id")]
    finally:
        conn.close()


def test_a_copy_holds_what_was_there_and_is_for_its_owner_alone(db: Database) -> None:
    say(db, "first")
    made = copies.take(db, NOW, copies.DAILY)
    say(db, "second")
    path = copies.folder_of(db) / made.name
    assert names(path) == ["first"]
    assert path.stat().st_mode & 0o077 == 0
    assert (made.at, made.why, made.size) == (NOW, "day", path.stat().st_size)


def test_one_is_due_on_each_day(db: Database) -> None:
    assert copies.due(db, NOW)
    copies.take(db, NOW, copies.TAKEN)
    assert copies.due(db, NOW), "one taken by hand is not the one of the day"
    copies.take(db, NOW + timedelta(seconds=1), copies.DAILY)
    assert not copies.due(db, NOW + timedelta(hours=5))
    assert copies.due(db, NOW + timedelta(hours=7)), "the next day has come"
    assert not copies.due(Database(db.path.with_name("none.db")), NOW), "there is nothing to copy"


def test_the_last_fourteen_days_and_the_last_of_each_month_stay(db: Database) -> None:
    day = datetime(2026, 8, 20, 12, 0, tzinfo=UTC)
    taken = copies.take(db, day, copies.TAKEN)
    while day <= NOW:
        copies.take(db, day + timedelta(seconds=5), copies.DAILY)
        day += timedelta(days=1)
    own = copies.listed(db)
    dates = [c.at.date().isoformat() for c in own if c.why == copies.DAILY]
    assert dates[:14] == [(NOW - timedelta(days=n)).date().isoformat() for n in range(14)]
    assert dates[14:] == ["2026-10-31", "2026-09-30", "2026-08-31"]
    assert taken in own, "what somebody took stays"


def test_too_little_room_is_said_before_anything_is_written(db: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    usage = namedtuple("usage", "total used free")
    monkeypatch.setattr(copies.shutil, "disk_usage", lambda _: usage(100, 99, 1))
    with pytest.raises(Refusal, match="the disk has 0 MB free"):
        copies.take(db, NOW, copies.TAKEN)
    assert list(copies.folder_of(db).iterdir()) == []


def test_a_copy_that_breaks_off_leaves_none_behind(db: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    def breaks(self: Path, target: Path) -> Path:
        raise OSError("no space left on device")

    monkeypatch.setattr(Path, "replace", breaks)
    with pytest.raises(Refusal, match="could not be written"):
        copies.take(db, NOW, copies.TAKEN)
    assert list(copies.folder_of(db).iterdir()) == []


def test_what_is_put_back_is_there_and_what_was_there_is_kept(db: Database) -> None:
    say(db, "first")
    made = copies.take(db, NOW, copies.TAKEN)
    say(db, "second")
    present = copies.put_back(db, copies.path_of(db, made.name), NOW + timedelta(minutes=1))
    assert present is not None
    assert names(db.path) == ["first"]
    assert names(copies.folder_of(db) / present.name) == ["first", "second"]
    assert db.check() == []
    copies.put_back(db, copies.path_of(db, present.name), NOW + timedelta(minutes=2))
    assert names(db.path) == ["first", "second"], "and back again"
    assert {p.suffix for p in copies.folder_of(db).iterdir()} == {".db"}, "nothing is left beside the copies"


def test_readers_see_the_one_state_or_the_other(db: Database) -> None:
    say(db, "first")
    made = copies.take(db, NOW, copies.TAKEN)
    say(db, "second")
    with db.read() as conn:
        assert conn.execute("SELECT count(*) FROM batch").fetchone()[0] == 2
    copies.put_back(db, copies.path_of(db, made.name), NOW + timedelta(minutes=1))
    with db.read() as conn:
        assert conn.execute("SELECT count(*) FROM batch").fetchone()[0] == 1
    say(db, "third")
    assert names(db.path) == ["first", "third"]


@pytest.mark.parametrize("content", [b"", b"this is no data at all, but a letter" * 200])
def test_a_file_that_is_no_data_is_refused_and_changes_nothing(db: Database, tmp_path: Path, content: bytes) -> None:
    say(db, "first")
    (tmp_path / "letter.db").write_bytes(content)
    with pytest.raises(Refusal, match="cannot be put back"):
        copies.put_back(db, tmp_path / "letter.db", NOW)
    assert names(db.path) == ["first"]


def test_a_damaged_copy_is_refused(db: Database, tmp_path: Path) -> None:
    for i in range(300):
        say(db, f"batch {i} " + "x" * 100)
    made = copies.take(db, NOW, copies.TAKEN)
    path = copies.folder_of(db) / made.name
    broken = bytearray(path.read_bytes())
    middle = len(broken) // 2
    broken[middle : middle + 6000] = b"\x00" * 6000
    path.write_bytes(bytes(broken))
    with pytest.raises(Refusal):
        copies.put_back(db, path, NOW + timedelta(minutes=1))
    assert len(names(db.path)) == 300


def test_a_copy_of_a_newer_program_is_refused(db: Database, tmp_path: Path) -> None:
    db.backup(tmp_path / "newer.db")
    conn = sqlite3.connect(tmp_path / "newer.db")
    conn.execute("PRAGMA user_version = 9999")
    conn.commit()
    conn.close()
    with pytest.raises(Refusal, match="newer version"):
        copies.put_back(db, tmp_path / "newer.db", NOW)


def test_names_from_outside_reach_no_other_file(db: Database) -> None:
    for name in ("../adhaero.db", "x.db", "20261126T180000Z-taken.db"):
        with pytest.raises(Refusal, match="there is no copy"):
            copies.path_of(db, name)


def test_a_copy_of_an_older_program_is_brought_up_to_date(db: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    """An update from the data of before, its copy put back, and updated again: nothing is lost on the way."""
    say(db, "first")
    old, real = db.version(), database_module._migrations()
    more = (old + 1, "9999_more.sql", "CREATE TABLE more (id INTEGER PRIMARY KEY) STRICT;")
    monkeypatch.setattr(database_module, "_migrations", lambda: [*real, more])
    db.open_up()
    say(db, "second")
    (copy,) = copies.listed(db)
    assert copy.why == copies.UPDATE
    copies.put_back(db, copies.path_of(db, copy.name), NOW)
    assert names(db.path) == ["first"]
    assert db.version() == old + 1
    assert not (copies.folder_of(db) / "copies").exists()
    assert db.check() == []


def test_what_is_written_while_the_present_is_copied_is_in_its_copy(
    db: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A tap from the bench lands between the copy of the present and the return of the old state."""
    say(db, "first")
    made = copies.take(db, NOW, copies.TAKEN)
    taken, late = copies.take, iter(["a late tap"])

    def and_then(db: Database, now: datetime, why: str) -> copies.Copy:
        found = taken(db, now, why)
        for name in late:
            act(db, name)
        return found

    monkeypatch.setattr(copies, "take", and_then)
    present = copies.put_back(db, copies.path_of(db, made.name), NOW + timedelta(minutes=1))
    assert present is not None
    assert names(copies.folder_of(db) / present.name) == ["first", "a late tap"]
    assert names(db.path) == ["first"]


def test_what_never_rests_is_not_put_away(db: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    say(db, "first")
    made = copies.take(db, NOW, copies.TAKEN)
    taken = copies.take

    def and_then(db: Database, now: datetime, why: str) -> copies.Copy:
        found = taken(db, now, why)
        act(db, "again")
        return found

    monkeypatch.setattr(copies, "take", and_then)
    with pytest.raises(Refusal, match="again and again"):
        copies.put_back(db, copies.path_of(db, made.name), NOW + timedelta(minutes=1))
    assert names(db.path) == ["first", *["again"] * copies.TIMES], "nothing was put in their place"


def act(db: Database, name: str) -> None:
    """A batch begun as the program does it, by an action."""
    with db.write() as conn:
        actions.record(conn, actions.Act("plan", "create", "Began it"), "2026-11-26T11:00:00.000Z")
        conn.execute("INSERT INTO batch (name, created_at) VALUES (?, ?)", (name, "2026-11-26T11:00:00.000Z"))


def test_a_data_file_that_is_damaged_makes_way_and_is_kept(db: Database) -> None:
    """The very case for which copies are made."""
    say(db, "first")
    made = copies.take(db, NOW, copies.TAKEN)
    db.close()
    db.path.write_bytes(b"nothing of a data file" * 400)
    assert copies.put_back(db, copies.path_of(db, made.name), NOW + timedelta(minutes=1)) is None
    assert names(db.path) == ["first"]
    (aside,) = db.path.parent.glob("adhaero.db.damaged-*")
    assert aside.read_bytes().startswith(b"nothing of a data file")
    say(db, "second")
    assert names(db.path) == ["first", "second"]


def test_a_damaged_file_gives_no_daily_copy_and_pushes_none_out(db: Database) -> None:
    good = copies.take(db, NOW, copies.DAILY)
    db.close()
    data = bytearray(db.path.read_bytes())
    data[8192:] = b"\x5a" * (len(data) - 8192)
    db.path.write_bytes(bytes(data))
    with pytest.raises(Refusal):
        copies.take(db, NOW + timedelta(days=1), copies.DAILY)
    assert [c.name for c in copies.listed(db)] == [good.name]


def test_a_lost_wal_is_noticed_and_a_copy_that_is_put_back_is_not(db: Database) -> None:
    """What was answered as done and is not in the file is told at the start; what was put back is what counts."""
    copy = copies.take(db, NOW, copies.TAKEN)
    before = db.path.read_bytes()
    for n in range(5):
        with db.write() as conn:
            actions.record(conn, Act("plan", "note", f"Action {n}"), "2026-11-23T08:00:00.000Z")
    db.close()
    db.path.write_bytes(before)
    for end in ("-wal", "-shm"):
        db.path.with_name(db.path.name + end).unlink(missing_ok=True)
    assert Database(db.path).lost() == 5
    assert any("actions are missing" in x for x in Database(db.path).check())
    with pytest.raises(Unusable, match="last 5 actions"):
        Database(db.path).open_up()
    copies.put_back(Database(db.path), copies.folder_of(db) / copy.name, NOW)
    assert Database(db.path).open_up() == []
