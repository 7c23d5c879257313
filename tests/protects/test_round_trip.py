"""The demo workshop through its files into an empty shop: the same analyses, flags and warnings."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from adhaero import cli
from tests.api.test_exchange import bring, export, rows_of
from tests.running import START, App, open_app

OWN = {"batch_id", "name"}
"""What is of the workshop, not of the pieces."""


def analysis(app: App, batch: int) -> dict[str, Any]:
    return {k: v for k, v in app.compare(batch).items() if k not in OWN}


def pieces(app: App, batch: int) -> dict[str, Any]:
    """What is minded of each piece, at the bench and at the rig."""
    broken = {r["code"]: (r["flags"], r["known"], r["figure_low"], r["figure_high"], r["note"])
              for r in app.get(f"/batches/{batch}/break")["rows"]}  # fmt: skip
    glued = {p["code"]: (p["flags"], p["joint_records"], p["note"])
             for p in app.get(f"/batches/{batch}/glue")["pieces"]}  # fmt: skip
    return {code: (broken[code], glued.get(code)) for code in broken}


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("demo")
    cli.fill_demo(folder / "adhaero.db", 4545, lambda: START)
    return folder


@pytest.mark.parametrize("batch", [1, 2, 3, 4])
def test_a_demo_batch_comes_back_with_equal_analyses_flags_and_warnings(demo: Path, tmp_path: Path, batch: int) -> None:
    with open_app(demo) as app:
        text = export(app, batch)
        before, minded = analysis(app, batch), pieces(app, batch)
        warned = app.get(f"/batches/{batch}/glue")["warnings"]
    with open_app(tmp_path) as other:
        made = bring(other, text)["batch_id"]
        after = analysis(other, made)
        for name in before:
            assert after[name] == before[name], name
        assert pieces(other, made) == minded
        assert other.get(f"/batches/{made}/glue")["warnings"] == warned
        again = export(other, made)
    first, second = rows_of(text), rows_of(again)
    # Curves stay here: what was read from one comes from a file there, with all that it showed.
    apart = ("plan", "shop", "source")
    assert [{k: v for k, v in r.items() if k not in apart} for r in first] == [
        {k: v for k, v in r.items() if k not in apart} for r in second
    ]
