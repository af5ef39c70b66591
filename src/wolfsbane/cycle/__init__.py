"""The refrigerant circuit: properties, machines, faults, the solver and the instruments. Pure computation."""
