"""Rigs and their loggers: Modbus TCP both ways, the logger service, and the simulated rig."""
