"""From a scenario to a marked answer: calls, keys, variants, sheets and grading. Pure."""
