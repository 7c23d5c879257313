"""Short specimen codes that survive handwriting, sawdust and a tired eye.

A code is three or more data characters and one check character, over 31 signs without 0, 1, I, L and O. The check is
a weighted sum modulo 31: since 31 is prime and the weights differ, every single wrong sign and every swap of two
neighbours is caught (the scheme of ISO/IEC 7064's pure systems, with plain weights).
"""

from __future__ import annotations

import random
from collections.abc import Container

from adhaero.core.refusal import refuse

SIGNS = "23456789ABCDEFGHJKMNPQRSTUVWXYZ"
_VALUE = {s: i for i, s in enumerate(SIGNS)}
_MODULUS = len(SIGNS)


def _check_sign(data: str) -> str:
    total = sum((weight + 2) * _VALUE[s] for weight, s in enumerate(data))
    return SIGNS[-total % _MODULUS]


def new_codes(count: int, seed: int, taken: Container[str]) -> list[str]:
    """``count`` new codes, none of them ``taken``; the same seed and ``taken`` give the same codes.

    Codes grow by a sign when the short ones get scarce, so that finding a free one stays quick.
    """
    rng = random.Random(seed)
    codes: list[str] = []
    used: set[str] = set()
    length, misses = 3, 0
    while len(codes) < count:
        data = "".join(rng.choices(SIGNS, k=length))
        code = data + _check_sign(data)
        if code in taken or code in used:
            misses += 1
            if misses > 200:
                length, misses = length + 1, 0
            continue
        used.add(code)
        codes.append(code)
    return codes


def read_code(text: str) -> str:
    """A code as typed or scanned -> the code. Case, spaces and a trailing half mark (``-a``, ``-b``) do not matter.

    Raises ``Refusal`` for a sign that no code has, or when the check sign does not fit.
    """
    clean = text.strip().upper().replace(" ", "")
    if clean[-2:] in ("-A", "-B"):
        clean = clean[:-2]
    clean = clean.replace("-", "")
    odd = [c for c in clean if c not in _VALUE]
    if not 4 <= len(clean) <= 12 or odd:
        raise refuse(
            "code",
            f"{text.strip()[:20]!r} is not a specimen code",
            "Codes have four signs, never 0, 1, I, L or O. Read the label again.",
        )
    if _check_sign(clean[:-1]) != clean[-1]:
        raise refuse(
            "code",
            f"{clean} has a wrong sign or two swapped",
            "Read the label again: its last sign checks the others.",
        )
    return clean
