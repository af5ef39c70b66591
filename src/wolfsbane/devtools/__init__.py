"""For developers: sweeps, trials, speed, the reference on another property library.

Nothing of the product imports it but the command line.
"""
