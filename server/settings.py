"""Settings for one workshop's own machine: SQLite, no accounts, everything served from here."""

import os
import secrets
from pathlib import Path

BASE_DIR = Path(__file__).resolve().parent.parent
VAR_DIR = Path(os.environ.get("DIANOIA_VAR", BASE_DIR / "var"))
VAR_DIR.mkdir(parents=True, exist_ok=True)


def _secret_key() -> str:
    """A key of this installation's own, made on first use."""
    path = VAR_DIR / "secret-key"
    if not path.exists():
        path.write_text(secrets.token_urlsafe(50), encoding="utf-8")
    return path.read_text(encoding="utf-8")


SECRET_KEY = _secret_key()
DEBUG = os.environ.get("DIANOIA_DEBUG") == "1"
ALLOWED_HOSTS = os.environ.get("DIANOIA_HOSTS", "127.0.0.1,localhost,testserver").split(",")
INSTALLED_APPS = ["django.contrib.contenttypes", "django.contrib.staticfiles", "ninja", "server.jobs"]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "django.middleware.common.CommonMiddleware",
]
ROOT_URLCONF = "server.urls"
TEMPLATES: list[dict[str, object]] = []
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR_DIR / "dianoia.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 10,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;",
        },
        "TEST": {"NAME": VAR_DIR / "test.sqlite3"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
STATIC_URL = "/static/"
WEB_DIST = BASE_DIR / "web" / "dist"
USE_TZ = True
TIME_ZONE = "UTC"
DATA_UPLOAD_MAX_MEMORY_SIZE = 5_000_000
