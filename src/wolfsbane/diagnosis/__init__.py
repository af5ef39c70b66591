"""Reading the figures: what they should be, what they are, and which faults would look the same. Pure."""
