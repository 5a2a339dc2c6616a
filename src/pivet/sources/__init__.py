"""Where edges come from while they happen: probes, GPIO lines, watched folders, replays."""
