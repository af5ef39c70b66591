"""One-time codes and the codes of a second factor.

A code is twelve letters and digits without those that are taken for one another, in groups of four; only its digest is
kept. The second factor is a time-based code (RFC 6238) of six digits.
"""

from __future__ import annotations

import hashlib
import secrets
import time

import pyotp

#: digits and letters that are told apart on paper (Crockford's base 32)
_SIGNS = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"
_LOOK_ALIKE = str.maketrans({"O": "0", "I": "1", "L": "1"})
CODE_LENGTH = 12
#: codes of so many steps before and after this one are taken, for clocks that are off
_STEPS = 1
_STEP_S = 30


def digest(secret: str) -> str:
    """What is kept of a token or a code."""
    return hashlib.sha256(secret.encode()).hexdigest()


def new_code() -> str:
    """A code of sixty bits, such as ``7K3M-9QPD-W2XA``."""
    drawn = "".join(secrets.choice(_SIGNS) for _ in range(CODE_LENGTH))
    return "-".join(drawn[i : i + 4] for i in range(0, CODE_LENGTH, 4))


def plain_code(typed: str) -> str:
    """A code as it is digested: whatever case, spaces, dashes and look-alikes it was typed with."""
    return "".join(c for c in typed.upper().translate(_LOOK_ALIKE) if c.isalnum())


def new_secret() -> str:
    """The secret of a second factor, base 32, 160 bits."""
    return pyotp.random_base32()


def address_of(secret: str, login: str, school: str) -> str:
    """What an authenticator reads as a QR code (``otpauth://``)."""
    return pyotp.TOTP(secret).provisioning_uri(name=login, issuer_name=f"Wolfsbane, {school}")


def counter_of(secret: str, code: str, now_s: float | None = None) -> int | None:
    """The step whose code this is, within a step of now; None for any other."""
    typed = "".join(c for c in code if c.isdigit())
    step = int(time.time() if now_s is None else now_s) // _STEP_S
    for counter in range(step - _STEPS, step + _STEPS + 1):
        if secrets.compare_digest(pyotp.TOTP(secret).generate_otp(counter), typed):
            return counter
    return None
