"""A machine on site: state in, action, time, state out. Pure; every reading on the way comes from the solver."""
