"""The version: said here and nowhere else."""

VERSION = "0.1.0"
