"""One rule of rounding, in the unit shown; what was typed comes back as it was typed."""

from __future__ import annotations

import json
import math
import random
import shutil
import subprocess

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.quantity import Dimension, parse, unit
from adhaero.core.units import Units, as_typed, half_up, signed_percent, units_of
from tests.running import App

INCH = units_of({"length": "in", "force": "lbf", "stress": "psi", "temperature": "°F"})
N_PER_LBF = 4.4482216152605
MPA_PER_PSI = 0.006894757293168


@pytest.mark.parametrize(
    ("value", "dimension", "doubt", "text"),
    [
        # 719.39 lbf was rounded in newtons first.
        (3200.0, Dimension.FORCE, 1.0, "719.4 lbf"),
        (3200.0, Dimension.FORCE, 10.0, "719 lbf"),
        (0.8, Dimension.STRESS, None, "116 psi"),
        (60.0, Dimension.MOMENT, None, "44.3 lbf·ft"),
        (10.0, Dimension.LINE_LOAD, None, "57.1 lbf/in"),
        (500.0, Dimension.AREA, None, "0.775 in²"),
        (20.0, Dimension.TEMPERATURE, None, "68 °F"),
        (100_000.0, Dimension.FORCE, None, "22\u202f481 lbf"),
    ],
)
def test_a_measured_value_is_rounded_in_the_unit_shown(
    value: float, dimension: Dimension, doubt: float | None, text: str
) -> None:
    assert INCH.text(value, dimension, doubt) == text


@pytest.mark.parametrize(
    ("base", "dimension", "symbol", "text"),
    [
        (2.5 * MPA_PER_PSI, Dimension.STRESS, "psi", "2.5 psi"),
        (37.5 * N_PER_LBF, Dimension.FORCE, "lbf", "37.5 lbf"),
        (19.05, Dimension.LENGTH, "in", "3/4 in"),
        (25.4 * (2 + 3 / 16), Dimension.LENGTH, "in", "2 3/16 in"),
        (14_400.0, Dimension.TIME, "min", "240 min"),
        (1596.1, Dimension.FORCE, "N", "1596.1 N"),
    ],
)
def test_a_typed_value_comes_back_as_it_was_typed(base: float, dimension: Dimension, symbol: str, text: str) -> None:
    assert as_typed(base, dimension, symbol) == text


@given(st.sampled_from(["N", "kN", "lbf", "kgf"]), st.integers(1, 999_999), st.integers(0, 4))
def test_whatever_has_six_digits_and_four_decimals_is_typed_back(symbol: str, digits: int, decimals: int) -> None:
    typed = digits / 10**decimals
    back = as_typed(unit(symbol, Dimension.FORCE).to_base(typed), Dimension.FORCE, symbol)
    assert math.isclose(parse(back.replace("\u202f", ""), Dimension.FORCE, symbol).base,
                        unit(symbol, Dimension.FORCE).to_base(typed), rel_tol=1e-9)  # fmt: skip


def test_every_dimension_has_a_unit() -> None:
    for system in (Units(), INCH):
        assert all(unit(symbol, Dimension(d)).symbol == symbol for d, symbol in system.all().items())


def test_a_change_of_units_reaches_sentences_that_stood_already(app: App) -> None:
    batch = app.locked("pva-damp", "casein", solid=0)
    joint = app.codes(batch, "joint")[0]
    app.glue(batch, force_n=50.0, force_known="measured")

    def flags() -> str:
        return " ".join(r["flags"][0] for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == joint)

    before = flags()
    assert "MPa" in before
    app.put("/settings", {"units": {"force": "lbf", "length": "in", "stress": "psi"}})
    assert "psi" in flags()
    assert "MPa" not in flags()


@pytest.mark.parametrize(("share", "text"), [(0.124, "+12 %"), (-0.031, "−3 %"), (0.004, "0 %"), (-0.004, "0 %")])
def test_a_change_that_rounds_to_nothing_has_no_sign(share: float, text: str) -> None:
    assert signed_percent(share) == text


def test_the_browser_and_the_server_round_alike() -> None:
    """Halves that a number holds exactly, and others near them: one figure is not 62 % here and 63 % there."""
    node = shutil.which("node")
    assert node is not None, "the front end is built with it"
    rng = random.Random(625)
    values = [(2 * n + 1) / 2 ** rng.randint(1, 6) for n in range(150)] + [rng.uniform(-2000, 2000) for _ in range(150)]
    values += [0.615, 1.005, 62.5, 12.5, -12.5, 74.5, 0.125, 2.675, 8.345]
    asked = [(v, d) for v in values for d in (0, 1, 2)]
    script = f"console.log(JSON.stringify({json.dumps(asked)}.map(([v, d]) => v.toFixed(d))))"
    shown = json.loads(subprocess.run([node, "-e", script], capture_output=True, text=True, check=True).stdout)
    assert [f"{half_up(v, d):.{d}f}" for v, d in asked] == shown
