"""The cabinet: folders of sounds of this machine as one collection, across projects."""
