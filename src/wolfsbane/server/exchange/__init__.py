"""Open files in and out: a sheet as an IMS QTI package, a whole school as JSON lines."""
