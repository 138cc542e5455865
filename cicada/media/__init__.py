"""Sound files in: decoding, rate changes, peaks, and the memory-mapped cache."""
