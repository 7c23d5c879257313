"""Words of other shops as levels of the record."""

from __future__ import annotations

import pytest

from adhaero.core.method_catalogue import METHODS
from adhaero.core.plan.document import Level
from adhaero.core.plan.foreign import failure_mode, key_of, level_of
from adhaero.core.refusal import Refusal


@pytest.mark.parametrize(("key", "text", "unit", "level"), [
    ("glue", "Hide", "", Level("Hide")),
    ("prep", "Fresh planed", "", Level("planed")),
    ("prep", "PLANED", "", Level("planed")),
    ("prep", "combed", "", Level("combed")),
    ("clamp_s", "30", "min", Level(1800.0, "min")),
    ("clamp_s", "2 h", "min", Level(7200.0, "h")),
    ("clamp_s", "until broken", "", Level("until broken", "s")),
    ("pressure_mpa", "none", "", Level(None)),
    ("pressure_mpa", "100", "psi", Level(0.6894757293168361, "psi")),
    ("coats", "3", "", Level(3.0, "")),
    ("coats", "3", "layers", Level(3.0, "layers")),
    ("coats", "thick", "layers", Level("thick", "")),
])  # fmt: skip
def test_a_cell_as_a_level(key: str, text: str, unit: str, level: Level) -> None:
    found = level_of(key, text, unit)
    assert found.unit == level.unit
    assert found.value == (pytest.approx(level.value) if isinstance(level.value, float) else level.value)


@pytest.mark.parametrize(("key", "text"), [("orientation", "sideways"), ("clamp_s", "long"), ("species", "-"),
                                           ("pressure_mpa", "30 min"), ("coats", " ")])  # fmt: skip
def test_what_a_field_cannot_take_is_refused(key: str, text: str) -> None:
    with pytest.raises(Refusal):
        level_of(key, text)


def test_keys_of_headings() -> None:
    assert key_of("Number of coats!") == "number-of-coats"
    assert key_of("glue") == "glue-own", "a factor of one's own is never taken for a field"
    assert key_of("\u043a\u043b\u0435\u0439") == "treatment"


def test_failure_modes_by_key_and_by_the_method_s_word() -> None:
    method = METHODS["lap-tension"]
    assert failure_mode(method, "In the glue") == "in-glue"
    assert failure_mode(method, "wood-deep") == "wood-deep"
    with pytest.raises(Refusal, match="is none of: at the interface"):
        failure_mode(method, "the lot")
