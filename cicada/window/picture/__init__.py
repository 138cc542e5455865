"""The picture, the parts it is made of, and its windows."""
