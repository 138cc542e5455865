"""Priority for the player's threads: asked of RealtimeKit, else taken where the person may.

Who may do neither goes without. By the service's rule a realtime thread that computes for 200 ms
without a rest ends with its process. Half-way there the one that mixes steps back to normal
priority instead.
"""

import os
import resource
import signal
import threading
from collections.abc import Sequence
from contextlib import suppress
from typing import Any

NAME = "org.freedesktop.RealtimeKit1"
# Seconds that its answer may take.
PATIENCE = 2.0
# Of 1 to 20 that are given, and of 0 to -15.
REALTIME, NICE = 10, -10
# Microseconds without a rest after which the kernel ends a realtime thread, if not told of fewer.
TIRED = 200_000


def ask_for_priority(beside: Sequence[int]) -> None:
    """Ask for realtime priority for the calling thread, the process's main one.

    Those ``beside`` it (by their system's ids) hold the interpreter lock at times that it waits
    for, so they are asked for to be nice to fewer others. Another thread does the asking.
    """
    signal.signal(signal.SIGXCPU, _step_back)
    arguments = threading.get_native_id(), beside
    threading.Thread(target=_ask, args=arguments, name="cicada-priority", daemon=True).start()


def _step_back(*_: object) -> None:
    """The main thread has computed for too long: it is a normal one from now on."""
    # The flag came with the priority, and may not be given back.
    os.sched_setscheduler(0, os.SCHED_OTHER | os.SCHED_RESET_ON_FORK, os.sched_param(0))


def _ask(mixing: int, beside: Sequence[int]) -> None:
    from jeepney import DBusAddress, Properties, new_method_call
    from jeepney.io.blocking import open_dbus_connection
    from jeepney.wrappers import unwrap_msg

    service = DBusAddress("/org/freedesktop/RealtimeKit1", NAME, NAME)
    try:
        with open_dbus_connection("SYSTEM") as bus:

            def ask(message: object) -> tuple[Any, ...]:
                return tuple(unwrap_msg(bus.send_and_get_reply(message, timeout=PATIENCE)))

            ((_, most),) = ask(Properties(service).get("RTTimeUSecMax"))
            tired = min(most, TIRED)
            resource.setrlimit(resource.RLIMIT_RTTIME, (tired // 2, tired))
            for thread in beside:
                ask(new_method_call(service, "MakeThreadHighPriority", "ti", (thread, NICE)))
            ask(new_method_call(service, "MakeThreadRealtime", "tu", (mixing, REALTIME)))
    except Exception:  # noqa: BLE001 - whatever a bus answers or does not, sound goes on
        _take(mixing, beside)


def _take(mixing: int, beside: Sequence[int]) -> None:
    """Take it, as those may whom the system's limits let: a group for sound, most often."""
    with suppress(OSError, ValueError):
        _, most = resource.getrlimit(resource.RLIMIT_RTTIME)
        # Nobody ends it here: it is only told to step back.
        soft = TIRED // 2 if most == resource.RLIM_INFINITY else min(most, TIRED) // 2
        resource.setrlimit(resource.RLIMIT_RTTIME, (soft, most))
        realtime = os.SCHED_RR | os.SCHED_RESET_ON_FORK
        os.sched_setscheduler(mixing, realtime, os.sched_param(REALTIME))
    for thread in beside:
        with suppress(OSError):
            os.setpriority(os.PRIO_PROCESS, thread, NICE)
