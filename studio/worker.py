"""The job worker: one process that warms its kernels, takes back lost jobs and then works the queue."""

from __future__ import annotations

import logging
import os
import sys
import threading
import time

import django


def warm_up() -> None:
    """Run every compiled kernel once on a small model, so that no user waits for a compiler."""
    import numpy as np

    from warmgraphite.drawing import Drawing
    from warmgraphite.model.model import Material, Part, build_model
    from warmgraphite.view.specification import Cut, Frame, Parallel, ViewSpecification

    cube = np.array([[x, y, z] for z in (0, 1) for y in (0, 1) for x in (0, 1)], float)
    faces = np.array(
        [(0, 2, 3), (0, 3, 1), (4, 5, 7), (4, 7, 6), (0, 1, 5), (0, 5, 4), (2, 6, 7), (2, 7, 3), (0, 4, 6), (0, 6, 2), (1, 3, 7), (1, 7, 5)],
        np.int32,
    )  # fmt: skip
    materials = [Material("Stone"), Material("Glass", "#aabbcc", 0.2)]
    rows = [
        (Part("One", "", 0), cube, faces),
        (Part("Two", "", 0), cube * 0.7 + 0.5, faces),
        (Part("Doubled", "", 0), cube - [0, 3, 0], np.concatenate([faces, faces])),
        (Part("Pane", "", 1, "glass"), cube * [1, 0, 1] + [0, -1, 0], faces[4:6]),
    ]
    view = ViewSpecification(
        projection=Parallel(direction=(0.3, 1, -0.5)),
        cuts=(Cut(point=(0.3, 0, 0), normal=(-1, 0, 0)),),
        frame=Frame(width=60, height=40, resolution=60),
    )
    drawing = Drawing(build_model("Warm-up", rows, materials), view)
    drawing.compute()


def main() -> None:
    """Serve until told to end."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
    logging.getLogger("huey").setLevel(logging.WARNING)
    django.setup()
    from django.db import DatabaseError

    import studio.studies.model_work
    import studio.studies.work  # noqa: F401 - registers the kinds of work
    from studio.jobs import leases
    from studio.jobs.queue import huey, look_after, recover_lost, sweep
    from studio.sentences import no_room

    end = threading.Event()
    try:
        with leases.working():
            leases.clear_dead()
            warm_up()
            recover_lost()
            sweep()
            threading.Thread(target=look_after, args=(end,), daemon=True).start()
            threading.Thread(target=_clear, args=(end,), daemon=True).start()
            consumer = huey.create_consumer(workers=2, worker_type="thread", initial_delay=0.05, backoff=1.05, max_delay=0.25)
            leases.mark_ready()
            consumer.run()
    except (OSError, DatabaseError) as error:
        if not no_room(error):
            raise
        print(no_room(error), file=sys.stderr)
        time.sleep(2)  # whoever starts another one shall not do so in a spin
        sys.exit(2)
    finally:
        end.set()


def _clear(end: threading.Event, seconds: float = 3600.0) -> None:
    """Every hour, put away what nothing refers to any more."""
    from django.db import close_old_connections

    from studio.studies.clearing import clear_unused

    while not end.wait(seconds):
        try:
            clear_unused()
        except Exception as error:
            logging.getLogger(__name__).warning("what is unused could not be cleared away: %s", error)
        finally:
            close_old_connections()


if __name__ == "__main__":
    main()
