"""How quantities and moments are said and typed. No Qt."""
