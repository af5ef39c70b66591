"""Codes of papers, the seed of every apprentice's variant, and the streams a request is drawn from."""

from __future__ import annotations

import hashlib
import random
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from wolfsbane.exercise.plan.brief import Brief

_ALPHABET = "ACDEFGHJKLMNPQRTUVWXY34679"
CODE_LENGTH = 6


def code_for(seed: int, sheet_id: int | str, index: int) -> str:
    """Short code of one apprentice's paper: five letters and a check letter, from a drawn stream."""
    rng = random.Random(f"{seed}/{sheet_id}/{index}")
    body = "".join(rng.choice(_ALPHABET) for _ in range(CODE_LENGTH - 1))
    return body + check_letter(body)


def check_letter(body: str) -> str:
    """Check letter over the body; catches any single wrong letter and most swaps."""
    total = sum((i + 2) * _ALPHABET.index(c) for i, c in enumerate(body))
    return _ALPHABET[total % len(_ALPHABET)]


def normal_code(text: str) -> str | None:
    """Typed code to canonical form, or None when it cannot be one (wrong letters, length or check letter)."""
    code = "".join(c for c in str(text).upper() if c.isalnum())
    if len(code) != CODE_LENGTH or any(c not in _ALPHABET for c in code):
        return None
    return code if check_letter(code[:-1]) == code[-1] else None


def call_seed(seed: int, call_index: int, apprentice_index: int) -> int:
    """Seed of one variant, from the stored seed of the sheet."""
    digest = hashlib.sha256(f"{seed}/{call_index}/{apprentice_index}".encode()).digest()
    return int.from_bytes(digest[:6], "big")


def rng_of(brief: Brief, *parts: Any) -> random.Random:
    """The stream of one part of a request: the same for the same seed, title and ``parts``."""
    return random.Random("/".join(map(str, (brief.seed, brief.title, *parts))))
