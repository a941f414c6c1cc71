"""The application's settings with a data folder of the tests' own, whatever the environment says."""

import os
import tempfile

os.environ["WARMGRAPHITE_DATA"] = tempfile.mkdtemp(prefix="warmgraphite-test-")

from studio.settings import *  # noqa: F403

ALLOWED_HOSTS = ["testserver", "127.0.0.1", "localhost"]
