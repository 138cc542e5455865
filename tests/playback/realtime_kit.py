"""A stand-in for RealtimeKit on a bus of its own: it gives what it is asked for and writes it down.

Run as a program it serves: ``python -m tests.playback.realtime_kit ADDRESS FILE``.
"""

import os
import subprocess
import sys
from contextlib import contextmanager, suppress
from pathlib import Path

HERE = Path(__file__).parents[2]
NAME = "org.freedesktop.RealtimeKit1"
CONFIG = """<busconfig><type>session</type><listen>unix:path={folder}/bus</listen>
<policy context="default"><allow send_destination="*" eavesdrop="true"/><allow eavesdrop="true"/>
<allow own="*"/></policy></busconfig>
"""


@contextmanager
def realtime_kit(folder):
    """Serves until it is left: the bus's address, and the file of what was asked for."""
    (folder / "bus.conf").write_text(CONFIG.format(folder=folder))
    asked = folder / "asked"
    bus = subprocess.Popen(
        ["dbus-daemon", f"--config-file={folder / 'bus.conf'}", "--nofork", "--print-address"],
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
    )  # fmt: skip
    kit = None
    try:
        address = bus.stdout.readline().strip()
        kit = subprocess.Popen(
            [sys.executable, "-m", "tests.playback.realtime_kit", address, str(asked)],
            cwd=HERE, stdout=subprocess.PIPE,
        )  # fmt: skip
        assert kit.stdout.readline() == b"ready\n"
        yield address, asked
    finally:
        for process in filter(None, (kit, bus)):
            process.terminate()
            process.wait(5)
            process.stdout.close()


def serve(address, asked):
    from jeepney import HeaderFields, MessageType, message_bus, new_method_return
    from jeepney.io.blocking import open_dbus_connection

    bus = open_dbus_connection(address)
    bus.send_and_get_reply(message_bus.RequestName(NAME))
    print("ready", flush=True)
    while True:
        message = bus.receive()
        if message.header.message_type != MessageType.method_call:
            continue
        member, body = message.header.fields[HeaderFields.member], message.body
        if member == "Get":
            bus.send(new_method_return(message, "v", (("x", 150_000),)))
            continue
        thread, level = body
        given = os.SCHED_RR if member == "MakeThreadRealtime" else os.SCHED_OTHER
        # Where it may not be given, it is still known that it was asked for.
        with suppress(PermissionError):
            if given == os.SCHED_RR:
                priority = os.sched_param(level)
                os.sched_setscheduler(thread, given | os.SCHED_RESET_ON_FORK, priority)
            else:
                os.setpriority(os.PRIO_PROCESS, thread, level)
        with Path(asked).open("a") as file:
            file.write(f"{member} {thread} {level}\n")
        bus.send(new_method_return(message))


if __name__ == "__main__":
    serve(*sys.argv[1:])
