"""Rules that are kept by looking: SQL in one room, every table used, one name for a thing."""

from __future__ import annotations

import ast
import re
import sqlite3
import sys
import tomllib
from pathlib import Path

from adhaero.store.database import Database

ROOT = Path(__file__).parents[2]
SOURCES = sorted((ROOT / "src" / "adhaero").rglob("*.py"))
SCREENS = [p for p in sorted((ROOT / "web" / "src").rglob("*.ts*")) if p.name != "schema.d.ts"]
SQL = re.compile(r"\b(SELECT\s.+\sFROM|INSERT INTO|UPDATE \w+ SET|DELETE FROM|CREATE TABLE)\b", re.DOTALL)


def texts(path: Path) -> list[str]:
    """All string constants of a file that are no docstrings."""
    tree = ast.parse(path.read_text())
    notes = {id(n.value) for n in ast.walk(tree) if isinstance(n, ast.Expr) and isinstance(n.value, ast.Constant)}
    return [n.value for n in ast.walk(tree)
            if isinstance(n, ast.Constant) and isinstance(n.value, str) and id(n) not in notes]  # fmt: skip


def test_sql_is_in_store_alone() -> None:
    elsewhere = [p.name for p in SOURCES if "store" not in p.parts and any(SQL.search(t) for t in texts(p))]
    assert elsewhere == []


def test_every_table_is_used(tmp_path: Path) -> None:
    db = Database(tmp_path / "adhaero.db")
    db.open_up()
    with sqlite3.connect(db.path) as conn:
        tables = [r[0] for r in conn.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
    store = " ".join(p.read_text() for p in SOURCES if "store" in p.parts and "migrations" not in p.parts)
    unused = [
        t
        for t in tables
        if not t.startswith(("sqlite_", "search_text_")) and not re.search(rf"\b(current_)?{t}\b", store)
    ]
    assert unused == []


def test_every_package_that_is_imported_is_listed() -> None:
    listed = {re.split(r"[\[<>=~ ]", d)[0].lower().replace("-", "_")
              for d in tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["dependencies"]}  # fmt: skip
    imported = set()
    for path in SOURCES:
        for node in ast.walk(ast.parse(path.read_text())):
            names = [a.name for a in node.names] if isinstance(node, ast.Import) else []
            names += [node.module] if isinstance(node, ast.ImportFrom) and node.module and not node.level else []
            imported |= {n.split(".")[0] for n in names}
    other_names = {"PIL": "pillow", "serial": "pyserial", "multipart": "python_multipart"}
    wanted = {other_names.get(n, n) for n in imported if n not in sys.stdlib_module_names and n != "adhaero"}
    assert {w for w in wanted if w.lower() not in listed} == set()


GIVEN_UP = {"told", "kept", "happened", "mind", "taken", "facts", "reference", "members", "around", "beside", "differs",
            "settled", "singles", "tell", "follow", "outlook", "sheet_facts", "fate"}  # fmt: skip


def test_files_are_called_after_what_they_hold_in_the_words_of_the_trade() -> None:
    assert [p.name for p in (*SOURCES, *SCREENS) if p.stem.lower() in GIVEN_UP] == []


def test_no_file_grows_beyond_a_screenful_of_screens() -> None:
    long = {p.name: n for p in (*SOURCES, *SCREENS) if (n := len(p.read_text().splitlines())) > 420}
    assert long == {}


def test_explanations_open_by_keyboard() -> None:
    """No ``title`` attribute of HTML: fingers and keys cannot open it. Those of SVG are its accessible names."""
    found = [p.name for p in SCREENS if re.search(r"<(button|span|td|input|div|p|a)\b[^>]*\stitle=", p.read_text())]
    assert found == []
