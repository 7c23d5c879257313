"""A schedule says beforehand what it puts on a visit of its own."""

from __future__ import annotations

from adhaero.workflow import record_loading
from adhaero.workflow.glue.alone import glued_alone
from tests.running import App

VISITS = [(0, 3600), (86400, 90000)]


def test_a_glue_that_is_glued_on_a_day_of_its_own_is_told_beforehand(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=4, solid=0)
    with app.context.db.read() as conn:
        record = record_loading.load(app.context, conn, batch)
    letters = {s.code: record.treatments[s.treatment_id].letter for s in record.pieces}
    apart = {code: 60 if letter == "A" else 86460 for code, letter in letters.items()}
    (said,) = glued_alone(record, apart, VISITS)
    assert said.startswith("Glue: Damp-proof PVA and Casein are glued each on a visit of their own.")
    both = {code: VISITS[i % 2][0] for i, code in enumerate(sorted(letters, key=letters.__getitem__))}
    assert glued_alone(record, both, VISITS) == []
    assert glued_alone(record, dict.fromkeys(letters, 60), VISITS) == [], "one visit for all is shared by all"
