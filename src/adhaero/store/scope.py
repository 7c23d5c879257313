"""Which pieces a question is about: all of a batch, or a few of them."""

from __future__ import annotations

import json
from collections.abc import Collection


def pieces(batch_id: int, only: Collection[int] | None) -> tuple[str, tuple[int | str, ...]]:
    """The standing pieces as a table ``s`` for a FROM clause, with its parameters. ``only`` names pieces by id."""
    if only is None:
        return "(SELECT * FROM current_specimen WHERE batch_id = ?) s", (batch_id,)
    # The plus keeps the index of the batch out: the few are found by their own ids.
    few = "(SELECT * FROM current_specimen WHERE +batch_id = ? AND id IN (SELECT value FROM json_each(?))) s"
    return few, (batch_id, json.dumps(sorted(only)))
