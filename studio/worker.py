"""The job worker: one process that takes back lost jobs and then works the queue."""

from __future__ import annotations

import logging
import os
import sqlite3
import sys
import threading
import time

import django

from studio.parent import end_with_parent, wait_for_gate
from studio.warming import keep_for_good


def main() -> None:
    """Serve until told to end."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
    logging.getLogger("huey").setLevel(logging.WARNING)
    end_with_parent()
    django.setup()
    from django.db import DatabaseError

    from studio.sentences import no_room

    try:
        _work()
    except (OSError, DatabaseError, sqlite3.Error) as error:
        if not no_room(error):
            raise
        print(no_room(error), file=sys.stderr)
        time.sleep(2)  # whoever starts another one shall not do so in a spin
        sys.exit(2)


def _work() -> None:
    """Work the queue until told to end."""
    import studio.stock.work
    import studio.studies.healing
    import studio.studies.model_work
    import studio.studies.out_work
    import studio.studies.proof_work
    import studio.studies.work  # noqa: F401 - registers the kinds of work
    from studio.jobs import leases
    from studio.jobs.lanes import LANES
    from studio.jobs.queue import ending, huey, look_after, recover_lost, sweep

    wait_for_gate()
    try:
        with leases.working():
            leases.clear_dead()
            recover_lost()
            sweep()
            threading.Thread(target=look_after, args=(ending,), daemon=True).start()
            threading.Thread(target=_clear, args=(ending,), daemon=True).start()
            threading.Thread(target=_draw_samples, args=(ending,), daemon=True).start()
            threading.Thread(target=_warm, daemon=True).start()
            threads = sum(lane.at_once for lane in LANES)
            # A look into an empty queue takes 10 microseconds, and whoever changes a pen waits for the next one.
            consumer = huey.create_consumer(
                workers=threads, worker_type="thread", initial_delay=0.01, backoff=1.02, max_delay=0.02
            )
            leases.mark_ready()
            consumer.run()
    finally:
        ending.set()


def _warm() -> None:
    """Have the kernels of a first drawing in memory, where they are compiled."""
    from django.conf import settings

    from studio.holding import keep_within
    from studio.jobs.queue import ending, is_working
    from warmgraphite.kernels.__main__ import is_complete, load_kept

    if is_complete():
        load_kept()
    keep_for_good()
    keep_within("worker", settings.WORKER_MEGABYTES * 1_000_000, ending, is_working)


def _clear(end: threading.Event, first: float = 120.0, seconds: float = 3600.0) -> None:
    """Every hour, and once the first desk had its time, put away what nothing refers to any more."""
    from django.db import close_old_connections

    from studio.studies.clearing import clear_unused

    wait = first
    while not end.wait(wait):
        wait = seconds
        try:
            clear_unused()
        except Exception as error:
            logging.getLogger(__name__).warning("what is unused could not be cleared away: %s", error)
        finally:
            close_old_connections()


def _draw_samples(end: threading.Event, seconds: float = 8.0) -> None:
    """Draw the small pictures of the figures in stock, once the first desk had its time."""
    from django.db import close_old_connections

    from studio.studies.figure_samples import draw_samples

    if end.wait(seconds):
        return
    try:
        draw_samples(end)
    except Exception as error:  # whoever looks at the stock has them drawn then
        logging.getLogger(__name__).warning("the samples of figures could not be drawn: %s", error)
    finally:
        close_old_connections()


if __name__ == "__main__":
    main()
