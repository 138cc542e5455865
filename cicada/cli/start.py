"""Where ``cicada`` begins: what asks for its end is heard before anything large is loaded."""

import signal


def _end(number: int, _: object) -> None:
    raise SystemExit(128 + number)


def main() -> int:
    """Run one command; the process's exit code."""
    for number in (signal.SIGTERM, signal.SIGHUP):
        # What is ignored stays so, as under nohup.
        if signal.getsignal(number) is not signal.SIG_IGN:
            signal.signal(number, _end)
    try:
        from cicada.cli.main import run

        code = run()
    except KeyboardInterrupt:
        code = 130
    except RuntimeError as error:
        # Python wraps whatever is raised while a class is being made.
        if not isinstance(error.__cause__, (KeyboardInterrupt, SystemExit)):
            raise
        code = getattr(error.__cause__, "code", 130)
    # Nothing is left to be stopped, and whoever is impatient need not see how Python ends.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    return code
