"""Lab sessions at a trainer rig: their steps, what was read against what the rig showed, the work judged by the rig."""
