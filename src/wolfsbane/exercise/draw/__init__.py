"""From a plan to fair calls: variants, class sets, drills, rigs, the items of a sheet."""
