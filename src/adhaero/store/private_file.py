"""Small files beside the data that are for this user's eyes alone."""

from __future__ import annotations

import os
from pathlib import Path


def write_private(path: Path, data: bytes) -> None:
    """Write a file whole or not at all, also when the program is killed meanwhile; nobody else may read it."""
    part = path.with_suffix(".part")
    part.unlink(missing_ok=True)
    with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())
    part.replace(path)
