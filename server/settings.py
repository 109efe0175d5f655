"""Settings for one workshop's own machine: SQLite, no accounts, everything served from here."""

import os
import secrets
from pathlib import Path

from csp.constants import NONE, SELF, UNSAFE_INLINE

BASE_DIR = Path(__file__).resolve().parent.parent
VAR_DIR = Path(os.environ.get("DIANOIA_VAR", BASE_DIR / "var"))


def _own(folder: Path) -> None:
    """Jobs and keys are nobody else's on this machine: the folder and its files are this user's alone."""
    os.umask(0o077)
    folder.mkdir(parents=True, exist_ok=True)
    folder.chmod(0o700)
    for path in folder.iterdir():
        if path.is_file():
            path.chmod(0o600)


_own(VAR_DIR)


def _secret_key() -> str:
    """A key of this installation's own, made on first use."""
    path = VAR_DIR / "secret-key"
    if not path.exists():
        path.write_text(secrets.token_urlsafe(50), encoding="utf-8")
    return path.read_text(encoding="utf-8")


SECRET_KEY = _secret_key()
DEBUG = os.environ.get("DIANOIA_DEBUG") == "1"
ALLOWED_HOSTS = os.environ.get("DIANOIA_HOSTS", "127.0.0.1,localhost").split(",")
INSTALLED_APPS = ["django.contrib.contenttypes", "django.contrib.staticfiles", "csp", "ninja", "server.jobs"]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "server.guard.OwnPagesOnly",
    "django.middleware.common.CommonMiddleware",
]
X_FRAME_OPTIONS = "DENY"
#: Everything comes from this server. Ant Design writes its styles into the page, so styles may stand inline.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF], "script-src": [SELF], "style-src": [SELF, UNSAFE_INLINE], "img-src": [SELF, "data:"],
        "font-src": [SELF], "connect-src": [SELF], "object-src": [NONE], "base-uri": [NONE], "form-action": [SELF],
        "frame-ancestors": [NONE],
    }
}  # fmt: skip
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
