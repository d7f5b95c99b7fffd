"""Settings. Everything is local: one builder, one machine, one SQLite file."""

import os
import secrets
from pathlib import Path

BASE_DIR = Path(__file__).resolve().parents[2]
DATA_DIR = Path(os.environ.get("KEGCART_DATA", BASE_DIR / "var"))
WEB_DIST = BASE_DIR / "web" / "dist"
# What is made here is the builder's alone: files of the database too.
os.umask(0o077)
DATA_DIR.mkdir(parents=True, exist_ok=True)


def local_secret() -> str:
    """A key of this installation's own, made at first use."""
    file = DATA_DIR / "secret.key"
    if not file.exists():
        file.write_text(secrets.token_urlsafe(48))
        file.chmod(0o600)
    return file.read_text()


SECRET_KEY = local_secret()
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
INSTALLED_APPS = ["django.contrib.staticfiles", "ninja", "kegcart.workbench"]
MIDDLEWARE = [
    "kegcart.site.middleware.guarded",
    "kegcart.site.static.StaticFiles",
    "kegcart.site.middleware.same_origin",
    "django.middleware.common.CommonMiddleware",
]
ROOT_URLCONF = "kegcart.site.urls"
ASGI_APPLICATION = "kegcart.site.asgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA_DIR / "kegcart.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;",
        },
        "TEST": {"NAME": DATA_DIR / "test.sqlite3"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"

STATIC_URL = "/static/"
STATICFILES_DIRS = [WEB_DIST] if WEB_DIST.exists() else []
WHITENOISE_USE_FINDERS = True
WHITENOISE_MAX_AGE = 3600
WHITENOISE_ALLOW_ALL_ORIGINS = False

DATA_UPLOAD_MAX_MEMORY_SIZE = 1_000_000
LOG_FILE = DATA_DIR / "kegcart.log"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "{asctime} {levelname} {name}: {message}", "style": "{"}},
    "handlers": {
        "console": {"class": "logging.StreamHandler", "formatter": "line"},
        "file": {
            "class": "logging.handlers.RotatingFileHandler",
            "filename": LOG_FILE,
            "maxBytes": 1_000_000,
            "backupCount": 3,
            "delay": True,
            "encoding": "utf-8",
            "formatter": "line",
        },
    },
    "root": {"handlers": ["console", "file"], "level": "WARNING"},
    "filters": {"failed": {"()": "django.utils.log.CallbackFilter", "callback": lambda record: bool(record.exc_info)}},
    # What was asked wrongly is answered, not logged; what the API has failed at is logged where it is answered.
    "loggers": {"django.request": {"filters": ["failed"]}, "django.security.DisallowedHost": {"propagate": False}},
}
TEST_RUNNER = "kegcart.workbench.testing.CountingRunner"
