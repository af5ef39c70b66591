"""Errors of the core: each names the field, its value and what is allowed."""

from __future__ import annotations

from typing import Any


class BadInputError(ValueError):
    """A value outside what the core accepts.

    ``field`` names the input, ``value`` is what came, ``allowed`` says in words what would do.
    """

    def __init__(self, field: str, value: Any, allowed: str) -> None:
        super().__init__(f"{field} {value!r} is not accepted; allowed: {allowed}")
        self.field, self.value, self.allowed = field, value, allowed

    def __reduce__(self) -> Any:
        """Crosses from a worker process as it was made."""
        return type(self), (self.field, self.value, self.allowed)


class NoConvergenceError(RuntimeError):
    """The circuit equations found no balance. ``report`` holds the attempts (dict of numbers and names)."""

    def __init__(self, report: dict[str, Any]) -> None:
        super().__init__(
            f"no balance found for {report['machine']} after {report['attempts']} starts; "
            f"best residual {report['best_residual']:.2e}; move the conditions or the fault towards normal"
        )
        self.report = report

    def __reduce__(self) -> Any:
        """Crosses from a worker process as it was made."""
        return type(self), (self.report,)


def require_range(field: str, value: Any, low: float, high: float, unit: str) -> float:
    """Return ``value`` as float when ``low <= value <= high``, otherwise raise BadInputError."""
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not low <= value <= high:
        raise BadInputError(field, value, f"a number from {low:g} to {high:g} {unit}")
    return float(value)
