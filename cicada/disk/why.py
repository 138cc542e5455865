"""Why the system would not read or write something, in words."""

import errno

_WORDS = {
    errno.EACCES: "it is not allowed",
    errno.EDQUOT: "no room is left for you on this disk",
    errno.EEXIST: "something of that name is there already",
    errno.EFBIG: "this disk holds no file that large",
    errno.EIO: "the disk has an error",
    errno.EISDIR: "it is a folder",
    errno.ELOOP: "its links lead in a circle",
    errno.EMFILE: "too many files are open",
    errno.ENAMETOOLONG: "its name is too long",
    errno.ENOENT: "it is not there",
    errno.ENOSPC: "no room is left on this disk",
    errno.ENOTDIR: "a part of its path is no folder",
    errno.EPERM: "it is not allowed",
    errno.EROFS: "this disk can only be read",
    errno.ESTALE: "the disk it was on has gone",
    errno.ENOTCONN: "the disk it was on has gone",
}


def why(error: OSError | ValueError) -> str:
    """A few words on what went wrong."""
    if not isinstance(error, OSError):
        # A name with a zero in it, or with what the file system's coding has not.
        return "its name is not one a file can have"
    said = error.strerror or "it cannot be opened"
    return _WORDS.get(error.errno or 0, said[:1].lower() + said[1:])


def size_text(size: int) -> str:
    """Bytes as people read them."""
    for unit, step in (("TB", 1e12), ("GB", 1e9), ("MB", 1e6), ("kB", 1e3)):
        if size >= step:
            number = size / step
            return f"{number:.3g} {unit}" if number < 999.5 else f"{number:,.0f} {unit}"
    return f"{size} bytes"
