"""What sounds made here sound like: plain ones, room tone, instruments, and what patterns play."""
