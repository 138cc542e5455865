"""Playing and listening: the rail, the transport, what sounds now."""
