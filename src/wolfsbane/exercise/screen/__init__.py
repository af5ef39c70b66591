"""Calls on screen: a live machine that is looked at, measured, tested, worked on and read again."""
