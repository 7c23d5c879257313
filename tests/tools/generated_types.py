"""Make the front end's types from the API's own description. They are made anew for each check, never kept."""

from __future__ import annotations

import json
import re
import subprocess
import tempfile
from pathlib import Path

from adhaero.api.app import create_app

WEB = Path(__file__).parent.parent.parent / "web"
TARGET = WEB / "src" / "api" / "schema.d.ts"


def make() -> str:
    """The types as text."""
    with tempfile.TemporaryDirectory() as folder:
        description = Path(folder) / "openapi.json"
        description.write_text(json.dumps(create_app().openapi()))
        out = Path(folder) / "schema.d.ts"
        tool = WEB / "node_modules" / ".bin" / "openapi-typescript"
        subprocess.run([tool, description, "-o", out], check=True, capture_output=True, cwd=WEB)
        return without_comments(out.read_text())


def without_comments(text: str) -> str:
    """Only the types: what they mean stands where they are defined, in Python."""
    return re.sub(r"\n\s*/\*\*.*?\*/", "", text, flags=re.DOTALL)


if __name__ == "__main__":
    TARGET.write_text(make())
