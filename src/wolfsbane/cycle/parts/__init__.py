"""The parts of the circuit as compiled functions. Equations and their assumptions: docs/model.md."""
