"""Answers to marks: reading what was written, the rubric, rules, feedback, results."""
