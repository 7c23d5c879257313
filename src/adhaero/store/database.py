"""The one SQLite file: connections, transactions, migrations, backup and checks."""

from __future__ import annotations

import contextlib
import sqlite3
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from importlib import resources
from pathlib import Path

_PRAGMAS = (
    "PRAGMA foreign_keys = ON",
    "PRAGMA busy_timeout = 5000",
    # A bench loses power: a commit is on the disk when it returns.
    "PRAGMA synchronous = FULL",
    # What is done goes into the data file itself soon: a lost -wal file costs a few minutes, not a day.
    "PRAGMA wal_autocheckpoint = 100",
)


MOST_IDLE = 8
COPIES = "copies"
"""Folder beside the data file in which its copies lie (store.copies)."""


def _connect(path: Path) -> sqlite3.Connection:
    # Transactions are begun by hand, so that a reader never holds a lock that it does not need.
    conn = sqlite3.connect(path, isolation_level=None, check_same_thread=False)
    conn.row_factory = sqlite3.Row
    for pragma in _PRAGMAS:
        conn.execute(pragma)
    return conn


def _migrations() -> list[tuple[int, str, str]]:
    folder = resources.files("adhaero.store") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    return [(int(f.name[:4]), f.name, f.read_text("utf-8")) for f in files]


class Unusable(RuntimeError):
    """The data file cannot be used as it is; the message is one sentence that says why and what to do."""


def _why(error: Exception, path: Path) -> str:
    text = str(error)
    if "not a database" in text or "malformed" in text:
        return f"{path} is damaged or is no data of Adhaero: put back a copy (adhaero restore lists them)."
    if "locked" in text or "busy" in text:
        return f"{path} is in use by another program: end that one first."
    if "readonly" in text or "read-only" in text or isinstance(error, PermissionError):
        return f"{path} may not be written to by this user: change its rights, or give another folder with --data."
    if "unable to open" in text:
        return f"{path} cannot be opened: is it a file, and may this user read its folder?"
    if "full" in text:
        return f"The disk with {path} is full: free some space."
    return f"{path} cannot be used ({text})."


class Database:
    """A database file. Each use has a connection to itself while it lasts; idle ones are kept, with their caches."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._idle: list[sqlite3.Connection] = []
        self._noted = 0

    @property
    def note(self) -> Path:
        """Beside the data file: the number of the last action that was answered as done."""
        return self.path.with_suffix(".last")

    def _take_note(self, conn: sqlite3.Connection) -> None:
        last = _last_action(conn)
        if last <= self._noted:
            return
        self._noted = last
        # A note that cannot be written costs nothing but the check that it serves.
        with contextlib.suppress(OSError):
            self.note.write_text(str(last))

    def lost(self) -> int:
        """How many actions that were answered as done are not in the file: its -wal file was lost, or an older copy was
        put in its place by hand.
        """
        try:
            noted = int(self.note.read_text())
        except (OSError, ValueError):
            return 0
        conn = _connect(self.path)
        try:
            return max(0, noted - _last_action(conn))
        finally:
            conn.close()

    @contextmanager
    def _connection(self) -> Iterator[sqlite3.Connection]:
        """An idle connection, or a new one. Taking from and adding to a list is atomic, so no lock is needed."""
        try:
            conn = self._idle.pop()
        except IndexError:
            conn = _connect(self.path)
        try:
            yield conn
        except BaseException:
            conn.close()
            raise
        if len(self._idle) < MOST_IDLE:
            self._idle.append(conn)
        else:
            conn.close()

    def close(self) -> None:
        """Close the connections that nobody uses. The file may be used again afterwards."""
        while self._idle:
            self._idle.pop().close()

    @contextmanager
    def read(self) -> Iterator[sqlite3.Connection]:
        """A connection that sees one state of the data for as long as it is used."""
        with self._connection() as conn:
            conn.execute("BEGIN")
            yield conn
            conn.execute("COMMIT")

    @contextmanager
    def write(self) -> Iterator[sqlite3.Connection]:
        """A transaction: all of it or, on any error, nothing."""
        with self._connection() as conn:
            conn.execute("BEGIN IMMEDIATE")
            try:
                yield conn
                conn.execute("COMMIT")
            except BaseException:
                if conn.in_transaction:
                    conn.execute("ROLLBACK")
                raise
            self._take_note(conn)

    def write_if_free(self, do: Callable[[sqlite3.Connection], None]) -> bool:
        """Write what is no fact and can be worked out anew, unless somebody is writing; returns whether it was done."""
        with self._connection() as conn:
            conn.execute("PRAGMA busy_timeout = 0")
            try:
                conn.execute("BEGIN IMMEDIATE")
                do(conn)
                conn.execute("COMMIT")
            except sqlite3.OperationalError:
                if conn.in_transaction:
                    conn.execute("ROLLBACK")
                return False
            finally:
                conn.execute("PRAGMA busy_timeout = 5000")
        return True

    def inspect(self) -> int:
        """Number of the last migration that the file has. ``Unusable`` for a file that is none, is damaged, or was
        written by a newer version.
        """
        path = self.path
        if path.is_dir():
            raise Unusable(f"{path} is a folder where the data file should be: move it away.")
        if path.exists() and path.stat().st_size == 0:
            raise Unusable(f"{path} is empty: put back a copy, or delete it to begin anew.")
        try:
            have, known = self.version(), _migrations()[-1][0]
        except (sqlite3.Error, OSError) as error:
            raise Unusable(_why(error, path)) from error
        if have > known:
            raise Unusable(f"{path} was written by a newer version of Adhaero (schema {have}): use that one.")
        return have

    def open_up(self) -> list[str]:
        """Make the folder and the file, for this user alone, and bring the file up to date; returns the migrations
        applied. ``Unusable`` where that can't be.
        """
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            self.path.parent.chmod(0o700)
            if self.path.exists():
                self.inspect()
                if missing := self.lost():
                    raise Unusable(
                        f"The last {missing} actions are not in {self.path}: put its -wal file back beside it, or a"
                        f" copy (adhaero restore); to go on without them delete {self.note.name}."
                    )
            applied = self.migrate()
            self.path.chmod(0o600)
        except (sqlite3.Error, OSError) as error:
            raise Unusable(_why(error, self.path)) from error
        return applied

    def version(self) -> int:
        """Number of the last migration that the file has; 0 for a new file."""
        conn = _connect(self.path)
        try:
            return int(conn.execute("PRAGMA user_version").fetchone()[0])
        finally:
            conn.close()

    def migrate(self, *, keep: bool = True) -> list[str]:
        """Bring the file up to date; returns the migrations applied.

        They are tried on a copy first, and a file with data is copied as it was, unless told not to ``keep`` it. Raises
        ``RuntimeError`` for a file made by a newer program, and ``sqlite3.Error`` (with the file as it was) for a
        migration that fails.
        """
        self.path.parent.mkdir(parents=True, exist_ok=True)
        have, known = self.version(), _migrations()
        if have > known[-1][0]:
            raise Unusable(f"{self.path.name} was written by a newer version of Adhaero (schema {have}).")
        pending = [m for m in known if m[0] > have]
        if not pending:
            return []
        if have:
            with tempfile.TemporaryDirectory(dir=self.path.parent) as folder:
                trial = Path(folder) / "trial.db"
                self.backup(trial)
                _apply(trial, pending)
                broken = Database(trial).check()
                if broken:
                    raise Unusable(f"Bringing {self.path} up to date would damage it: {broken[0]}.")
            if keep:
                copies = self.path.parent / COPIES
                copies.mkdir(mode=0o700, exist_ok=True)
                self.backup(copies / f"{datetime.now(UTC):%Y%m%dT%H%M%SZ}-update.db")
        _apply(self.path, pending)
        return [name for _, name, _ in pending]

    def backup(self, target: Path) -> None:
        """A consistent copy, also while the program runs; it has its name only once it is whole, and is for this user
        alone.
        """
        trial = target.with_name(f"{target.name}.part")
        source = _connect(self.path)
        try:
            copy = sqlite3.connect(trial)
            try:
                source.backup(copy)
            finally:
                copy.close()
            trial.chmod(0o600)
            trial.replace(target)
        finally:
            source.close()
            for left in (trial, trial.with_name(f"{trial.name}-journal")):
                left.unlink(missing_ok=True)

    def last_change(self) -> int:
        """A number that every write raises."""
        with self.read() as conn:
            return int(conn.execute("SELECT coalesce(max(id), 0) FROM action").fetchone()[0])

    def take_over(self, other: Path) -> None:
        """Everything that another file holds, in the place of what is here: in one transaction, also while the program
        runs.
        """
        source, own = _connect(other), _connect(self.path)
        try:
            source.backup(own)
        finally:
            own.close()
            source.close()
        self.close()
        self.path.chmod(0o600)
        # What stands now is what was put back: nothing that came later is missed.
        self.note.unlink(missing_ok=True)
        self._noted = 0

    def check(self) -> list[str]:
        """What is wrong with the file: integrity, foreign keys, and what must hold between facts."""
        conn = _connect(self.path)
        try:
            found = [r[0] for r in conn.execute("PRAGMA integrity_check") if r[0] != "ok"]
            if missing := self.lost():
                found.append(f"the last {missing} actions are missing: the -wal file beside it was lost")
            found += [
                f"row {r['rowid']} of {r['table']} points nowhere" for r in conn.execute("PRAGMA foreign_key_check")
            ]
            for what, sql in _RULES.items():
                count = conn.execute(f"SELECT count(*) FROM ({sql})").fetchone()[0]
                if count:
                    found.append(f"{what}: {count}")
            return found
        finally:
            conn.close()


def _last_action(conn: sqlite3.Connection) -> int:
    known = conn.execute("SELECT 1 FROM sqlite_master WHERE name = 'action'").fetchone()
    return int(conn.execute("SELECT coalesce(max(id), 0) FROM action").fetchone()[0]) if known else 0


def _apply(path: Path, pending: list[tuple[int, str, str]]) -> None:
    conn = _connect(path)
    try:
        conn.execute("PRAGMA journal_mode = WAL")
        # Tables that others point to are rebuilt; whether all still point somewhere is looked at before the commit.
        conn.execute("PRAGMA foreign_keys = OFF")
        for number, name, sql in pending:
            conn.executescript(f"BEGIN IMMEDIATE;\n{sql}\nPRAGMA user_version = {number};")
            broken = conn.execute("PRAGMA foreign_key_check").fetchall()
            if broken:
                raise sqlite3.IntegrityError(f"{name}: {len(broken)} rows of {broken[0]['table']} point nowhere")
            conn.execute("COMMIT")
    except sqlite3.Error:
        if conn.in_transaction:
            conn.execute("ROLLBACK")
        raise
    finally:
        conn.close()


_RULES = {
    "joints without both adherends": """
        SELECT s.id FROM specimen s WHERE s.role = 'joint'
        AND (SELECT count(*) FROM adherend a WHERE a.specimen_id = s.id) < 2""",
    "observations on a pull of another specimen": """
        SELECT o.id FROM observation o JOIN pull p ON p.id = o.pull_id WHERE p.specimen_id <> o.specimen_id""",
    "specimens of a treatment of another batch": """
        SELECT s.id FROM specimen s JOIN treatment t ON t.id = s.treatment_id WHERE t.batch_id <> s.batch_id""",
    "pieces in two glue-ups at once": """
        SELECT specimen_id FROM current_glueup_specimen GROUP BY specimen_id HAVING count(*) > 1""",
    "gaps in a raw curve": """
        SELECT pull_id FROM curve_chunk GROUP BY pull_id HAVING max(sequence) <> count(*) - 1""",
}
