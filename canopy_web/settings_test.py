"""Settings of the tests: a database of their own, quick passwords, static files as they lie."""

from __future__ import annotations

import atexit
import os
import shutil
import tempfile

if "MILD_CANOPY_DATA" not in os.environ:
    # Made here, and gone with this process; the processes it starts use it too.
    os.environ["MILD_CANOPY_DATA"] = tempfile.mkdtemp(prefix="mild-canopy-test-")
    atexit.register(shutil.rmtree, os.environ["MILD_CANOPY_DATA"], ignore_errors=True)

from canopy_web.settings import *  # noqa: F403
from canopy_web.settings import DATA

DEMO = True
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA / "test.sqlite3",
        "TEST": {"NAME": DATA / "test.sqlite3"},
        "OPTIONS": {"transaction_mode": "IMMEDIATE", "timeout": 20},
    }
}
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
WHITENOISE_AUTOREFRESH = True
WHITENOISE_USE_FINDERS = True
