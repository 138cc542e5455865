"""What leaves the project: the mix."""
