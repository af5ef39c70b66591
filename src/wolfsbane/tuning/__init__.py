"""A machine of your own: circuit parameters that meet a plate and the ratings that are known, and an honest report."""

from wolfsbane.tuning.tuner import Tuned, tune

__all__ = ["Tuned", "tune"]
