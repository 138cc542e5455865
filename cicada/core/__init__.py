"""The pure heart: timing, the project, edits, planning, mixing, checks. No Qt, no device, no clock."""
