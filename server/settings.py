"""Settings for one workshop's own machine: SQLite, everything served from here."""

import os
import secrets
from datetime import timedelta
from hashlib import sha256
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
#: One bench on this machine alone: no passwords, people pick their name.
BENCH = os.environ.get("DIANOIA_BENCH") == "1"
#: After so many minutes in which nothing was done a page asks anew who works with it.
IDLE_MINUTES = float(os.environ.get("DIANOIA_IDLE_MINUTES", "240" if BENCH else "30"))
INSTALLED_APPS = [
    "django.contrib.contenttypes", "django.contrib.auth", "django.contrib.sessions", "django.contrib.staticfiles", "axes", "csp",
    "ninja", "server.people", "server.commands", "server.ledger.apps.LedgerConfig",
]  # fmt: skip
MIDDLEWARE = [
    "server.logs.RequestLog",
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "server.limits.BodyLimits",
    "server.guard.OwnPagesOnly",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "server.people.access.EveryWriteCarriesItsToken",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "server.people.access.SignedIn",
    "axes.middleware.AxesMiddleware",
]
CSRF_FAILURE_VIEW = "server.people.access.csrf_refused"
PASSWORD_HASHERS = ["server.people.passwords.BoundedArgon2"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "server.people.validators.NotTheName"},
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_USERNAME_CALLABLE = "server.people.attempts.counted_name"
AXES_CLIENT_IP_CALLABLE = "server.people.attempts.source_address"
# Tries while the door is shut do not keep it shut, and a right password forgets the wrong ones before it.
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_RESET_ON_SUCCESS = True
AXES_ENABLE_ADMIN = False
AXES_LOCKOUT_CALLABLE = "server.people.access.shut"
AXES_VERBOSE = False
# Off the bench cookies travel under TLS only; a proxy that ends it says so, where it is trusted to.
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = not BENCH
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Strict"
SESSION_COOKIE_HTTPONLY = True
#: The address of the proxy that is believed, empty for none; ``1`` stands for one on this machine.
PROXY = {"1": "127.0.0.1", "0": ""}.get(os.environ.get("DIANOIA_PROXY", ""), os.environ.get("DIANOIA_PROXY", ""))
if PROXY:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
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
        # a thread of the server keeps its connection: opening one takes as long as a small answer
        "CONN_MAX_AGE": None,
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 10,
            # FULL: what was answered is on the disk. Deleted data is overwritten, and a REPLACE meets the ledger's guards, too.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA secure_delete=ON; PRAGMA recursive_triggers=ON;",
        },
        "TEST": {"NAME": VAR_DIR / "test.sqlite3"},
    }
}
#: Processes that work jobs out beside the server's own, 0 for none; and the bytes of circuits that each of
#: them keeps: with less than one job needs, its readings are judged slowly.
WORKERS = int(os.environ.get("DIANOIA_WORKERS", min(os.cpu_count() or 1, 4)))
#: Of circuits, all processes together.
ENGINE_BYTES = int(float(os.environ.get("DIANOIA_ENGINE_MB", "400")) * 1e6)
#: Copies of the store: where, for how many days, and where a second one goes, if anywhere.
BACKUPS = os.environ.get("DIANOIA_BACKUPS", VAR_DIR / "backups")
BACKUP_DAYS = float(os.environ.get("DIANOIA_BACKUP_DAYS", "14"))
BACKUPS_SECOND = os.environ.get("DIANOIA_BACKUPS_SECOND", "")
LOG_LEVEL = os.environ.get("DIANOIA_LOG", "INFO")
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"json": {"()": "server.logs.JsonLines"}},
    "handlers": {"stderr": {"class": "logging.StreamHandler", "formatter": "json"}},
    "loggers": {
        "dianoia": {"handlers": ["stderr"], "level": LOG_LEVEL, "propagate": False},
        "server": {"handlers": ["stderr"], "level": LOG_LEVEL, "propagate": False},
        "axes": {"handlers": ["stderr"], "level": "ERROR", "propagate": False},
        "django.request": {"level": "CRITICAL"},
    },
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
STATIC_URL = "/static/"
#: What the API looks like, in short: a page that was built for another one says so.
API_VERSION = sha256((BASE_DIR / "docs" / "openapi.json").read_bytes()).hexdigest()[:12]
WEB_DIST = BASE_DIR / "web" / "dist"
USE_TZ = True
TIME_ZONE = "UTC"
# server/limits.py knows the limit of each address
DATA_UPLOAD_MAX_MEMORY_SIZE = None
