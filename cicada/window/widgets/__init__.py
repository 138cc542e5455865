"""Controls that several rooms use."""
