"""Where ``cicada`` begins: Ctrl+C is heard before anything large is loaded."""

import signal


def main() -> int:
    """Run one command; the process's exit code."""
    try:
        from cicada.cli.main import run

        code = run()
    except KeyboardInterrupt:
        code = 130
    # Nothing is left to be stopped, and whoever is impatient need not see how Python ends.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    return code
