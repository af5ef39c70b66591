"""What screens show of a solved machine: bench, pictures, charts, the reference, the projector."""
