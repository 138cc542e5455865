"""What the window knows: the document, what is looked at, the newest plan, work under way."""
