"""What an instrument shows, and the load that follows: against cases worked out by hand, and least squares of numpy."""

from __future__ import annotations

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.breaking.instrument import (
    Calibration,
    Instrument,
    Measures,
    checked,
    fit,
    instrument_from_json,
)
from adhaero.core.refusal import Refusal

G = 9.80665


def test_a_cylinder_gauge_by_hand() -> None:
    """6.5 MPa on a piston of 800 mm2 are 5,200 N."""
    gauge = Instrument(Measures.PRESSURE, "MPa", piston_mm2=800)
    assert gauge.load_n(6.5) == pytest.approx(5200)
    assert Instrument(Measures.PRESSURE, "bar", piston_mm2=800).signal_factor == pytest.approx(80)


def test_a_moment_at_its_arm_by_hand() -> None:
    """60 N m at an arm of 400 mm are 150 N, at 250 mm 240 N."""
    assert Instrument(Measures.MOMENT, "N·m", arm_mm=400).load_n(60) == pytest.approx(150)
    assert Instrument(Measures.MOMENT, "N·m", arm_mm=250).load_n(60) == pytest.approx(240)


def test_a_lever_with_a_hanger_by_hand() -> None:
    """17 kg at a lever of 4 : 1, beside a hanger of 1.4 kg on the piece: (68 + 1.4) kg."""
    lever = Instrument(Measures.MASS, "kgf", lever=4, tare_n=1.4 * G)
    assert lever.load_n(17 * G) == pytest.approx(69.4 * G)
    assert lever.signal_factor == pytest.approx(4 * G)


def test_one_known_weight_by_hand() -> None:
    """25.0 kg that read 24.5 make a factor of 1.0204: 1,176 N become 1,200 N."""
    i = Instrument(calibration=Calibration(((25.0 * G, 24.5 * G),)))
    assert i.factor == pytest.approx(1.0204, abs=5e-5)
    assert i.load_n(1176) == pytest.approx(1200)
    assert i.error_n(1200) == 0.0, "one weight tells nothing of its scatter"


def test_a_line_through_zero_and_its_doubt() -> None:
    read = np.array([100.0, 200.0, 300.0])
    known = np.array([103.0, 203.0, 309.0])
    line = fit(tuple(zip(known, read, strict=True)))
    slope = float(known @ read / (read @ read))
    left = known - slope * read
    scatter = float(np.sqrt(left @ left / 2))
    assert (line.factor, line.offset_n) == (pytest.approx(slope), 0.0)
    assert line.scatter_n == pytest.approx(scatter)
    assert line.factor_error == pytest.approx(scatter / np.sqrt(read @ read) / slope)
    # By hand: sqrt((factor error x 300)^2 + scatter^2).
    assert line.error_n(300) == pytest.approx(float(np.hypot(scatter / np.sqrt(read @ read) / slope * 300, scatter)))


def test_a_line_that_does_not_go_through_zero() -> None:
    read = np.array([100.0, 200.0, 300.0, 400.0, 500.0])
    known = 1.02 * read + 15 + np.array([0.4, -0.3, 0.1, -0.5, 0.3])
    line = fit(tuple(zip(known, read, strict=True)))
    slope, start = np.polyfit(read, known, 1)
    assert (line.factor, line.offset_n) == (pytest.approx(float(slope)), pytest.approx(float(start)))
    assert sum(line.residuals_n) == pytest.approx(0, abs=1e-9)
    # Prediction from a straight line, by hand: s sqrt(1 + 1/n + (x - mean)^2 / S).
    left, about = known - slope * read - start, read - read.mean()
    spread = float(np.sqrt(left @ left / 3))
    wanted = spread * float(np.sqrt(1 + 1 / 5 + (700 - read.mean()) ** 2 / (about @ about)))
    assert line.error_n(float(slope * 700 + start)) == pytest.approx(wanted)


def test_drift_is_told_without_what_hangs_there_anyhow() -> None:
    i = Instrument(tare_n=50)
    assert i.drift(1000, 970) == pytest.approx(-0.03)


numbers = st.floats(0.5, 2000)


@given(numbers, st.sampled_from(list(Measures)[:4]), st.floats(0.1, 50), st.floats(0, 500), st.floats(0.6, 1.6))
def test_there_and_back(shown: float, measures: Measures, lever: float, tare: float, off: float) -> None:
    i = Instrument(measures, "N", 800, 400, lever, tare, Calibration(((off * 100, 100),)))
    assert i.shown(i.load_n(shown)) == pytest.approx(shown)
    assert instrument_from_json(json.loads(json.dumps(i.to_json()))) == i


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        (Instrument(Measures.PRESSURE, "MPa"), "piston_mm2"),
        (Instrument(Measures.MOMENT, "N·m"), "arm_mm"),
        (Instrument(Measures.PRESSURE, "N", 800), "unit"),
        (Instrument(lever=0), "lever"),
        (Instrument(tare_n=-1), "tare_n"),
        (Instrument(calibration=Calibration(((250.0, 24.5),))), "calibration"),
        (Instrument(calibration=Calibration(((100.0, 99.0), (200.0, 99.0)))), "calibration"),
    ],
)
def test_what_makes_no_sense_names_its_field(wrong: Instrument, field: str) -> None:
    with pytest.raises(Refusal) as refused:
        checked(wrong)
    assert refused.value.problems[0].field == field


@pytest.mark.parametrize(("at", "load"), [(-0.5, 144.0), (0.5, 156.0), (0.0, 150.0)])
def test_a_levers_own_weight_bears_at_its_centre(at: float, load: float) -> None:
    """12 N of lever: half an arm away it takes 6 N from 150 N, or adds them."""
    i = Instrument(own_n=12.0, own_at=at)
    assert i.load_n(150.0) == pytest.approx(load)
    assert i.shown(load) == pytest.approx(150.0)
    assert i.is_plain == (at == 0.0)
    assert instrument_from_json(i.to_json()) == i


def test_a_known_weight_is_read_beside_what_is_carried() -> None:
    i = Instrument(tare_n=20.0, own_n=12.0, own_at=-0.5)
    assert i.carried_n == 14.0
    assert i.drift(100.0, 100.0) == pytest.approx(0.0)
    assert i.drift(100.0, 98.0) == pytest.approx(-0.02)
