"""The cabinet: the sounds of this machine, searched, listened to, and put into the film."""
