"""The HTTP API under /api/v1. Routes parse, call and reply."""
