"""Exchange and sheet -> margins, verdict, findings, and the readings that may be believed."""
