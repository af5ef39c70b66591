"""What an instructor asks for: scenarios, requests for a class set, stories, presets.

Nothing is solved for a sheet here.
"""
