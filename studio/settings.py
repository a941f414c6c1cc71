"""Django settings. All that a machine may differ in comes from the environment, with a working default."""

from __future__ import annotations

import os
from pathlib import Path

from studio.start import data_folder

ROOT = Path(__file__).resolve().parent.parent
DATA = data_folder()

# The server knows no accounts, so the key guards nothing that leaves it.
SECRET_KEY = os.environ.get("WARMGRAPHITE_KEY", "on-this-desk-only")
DEBUG = False
# The names that it answers to, with commas between them: those of this machine alone, unless more are said.
ALLOWED_HOSTS = [h for h in os.environ.get("WARMGRAPHITE_HOSTS", "127.0.0.1,localhost,[::1]").split(",") if h]

INSTALLED_APPS = ["studio.studies", "studio.jobs", "studio.stock"]
MIDDLEWARE = [
    "studio.front.FrontMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
]
ROOT_URLCONF = "studio.urls"
WSGI_APPLICATION = "studio.wsgi.application"
TEMPLATES: list[dict] = []

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA / "studio.sqlite3",
        # A file in tests too: jobs look at it from threads of their own.
        "TEST": {"NAME": DATA / "test.sqlite3"},
        "OPTIONS": {
            "timeout": 60,
            "transaction_mode": "IMMEDIATE",
            # An edit that was acknowledged is on the disk: nothing of it is left to the machine's memory.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

USE_TZ = True
STATIC_URL = "/static/"
# In a release the built front end lies in this package, in a checkout where it is built.
WEB = next((w for w in (ROOT / "studio" / "web", ROOT / "web" / "dist") if w.is_dir()), ROOT / "web" / "dist")
WHITENOISE_ROOT = WEB if WEB.is_dir() else None
WHITENOISE_INDEX_FILE = True
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+-[\w-]{8}\.\w+$"

# A model larger than this is refused with a sentence; the parser's own limits come after.
UPLOAD_LIMIT = int(os.environ.get("WARMGRAPHITE_UPLOAD_LIMIT", 400_000_000))
DATA_UPLOAD_MAX_MEMORY_SIZE = 20_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 2_000_000
DATA_UPLOAD_MAX_NUMBER_FILES = 400

# Requests that are worked on at once, seconds that a connection may be silent, and connections held open.
SERVER_THREADS = int(os.environ.get("WARMGRAPHITE_THREADS", 8))
SERVER_SECONDS = int(os.environ.get("WARMGRAPHITE_TIMEOUT", 60))
SERVER_CONNECTIONS = int(os.environ.get("WARMGRAPHITE_CONNECTIONS", 4000))

# Megabytes that the server and a worker may hold but while they compute; what the program itself does not take is kept
# of them for whoever asks again.
WEB_MEGABYTES = int(os.environ.get("WARMGRAPHITE_WEB_MEGABYTES", 500))
WORKER_MEGABYTES = int(os.environ.get("WARMGRAPHITE_WORKER_MEGABYTES", 1000))

QUEUE_CONNECTION = {"url": os.environ["WARMGRAPHITE_REDIS"]} if os.environ.get("WARMGRAPHITE_REDIS") else {}
HUEY = {
    "huey_class": "huey.RedisHuey" if os.environ.get("WARMGRAPHITE_REDIS") else "huey.SqliteHuey",
    "name": "warmgraphite",
    "immediate": False,
    "connection": QUEUE_CONNECTION,
}
# Pixels of the longer side of the tones on the desk: fewer on a slow machine. Exports have the paper's own resolution.
DESK_PIXELS = int(os.environ.get("WARMGRAPHITE_DESK_PIXELS", 1600))
READ_SECONDS = int(os.environ.get("WARMGRAPHITE_READ_SECONDS", 120))
READ_MEGABYTES = int(os.environ.get("WARMGRAPHITE_READ_MEGABYTES", 4096))
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
