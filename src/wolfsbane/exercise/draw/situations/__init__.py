"""Drawing situations: one module for each group of kinds, a registry, and the page they are written on."""
