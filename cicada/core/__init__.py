"""The pure heart: timing, project, edits, planning, mixing, checks. No Qt, no device, no clock."""
