"""A trainer rig: what it can show and plant, its own numbers, when it has settled, and what it should read now."""
