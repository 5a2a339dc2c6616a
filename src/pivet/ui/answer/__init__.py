"""The answer at the right: verdict, readings, check, windows, findings."""
