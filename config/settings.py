"""Settings, all from the environment.  `./coat` sets what a shop's own machine needs."""

from pathlib import Path

import environ
from csp.constants import NONE, SELF

BASE_DIR = Path(__file__).resolve().parent.parent
env = environ.Env()

SECRET_KEY = env.str("COATLOG_SECRET_KEY")
DEBUG = env.bool("COATLOG_DEBUG", default=False)
ALLOWED_HOSTS = env.list("COATLOG_HOSTS", default=["127.0.0.1", "localhost"])
#: Whether strangers may found a shop here: on one's own machine, and elsewhere only where it is said.
SIGN_UP = env.bool("COATLOG_SIGN_UP", default=set(ALLOWED_HOSTS) <= {"127.0.0.1", "localhost"})
#: The one clock door may be set (tests, shots); refused everywhere else.
CLOCK_SETTABLE = env.bool("COATLOG_CLOCK_SETTABLE", default=False)
#: Only the test runner's own sessions may empty the append-only tables.
TEST_SESSIONS = env.bool("COATLOG_TEST_SESSIONS", default=False)

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "axes",
    "csp",
    "ninja",
    "procrastinate.contrib.django",
    "coatlog.shop",
    "coatlog.shelf",
    "coatlog.jobs",
    "coatlog.logbook",
    "coatlog.run",
    "coatlog.demo",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "csp.middleware.CSPMiddleware",
    "axes.middleware.AxesMiddleware",
    "coatlog.shop.middleware.tell_time",
]
ROOT_URLCONF = "config.urls"
WSGI_APPLICATION = "config.wsgi.application"

DATABASES = {"default": env.db("DATABASE_URL")}
DATABASES["default"]["CONN_MAX_AGE"] = 60
# Nobody holds up the others without an end: what waits or works longer is given up and told so.
PATIENCE = "-c statement_timeout=60s -c lock_timeout=30s -c idle_in_transaction_session_timeout=120s"
if TEST_SESSIONS:
    PATIENCE += " -c coatlog.test_runner=on"
DATABASES["default"].setdefault("OPTIONS", {})["options"] = PATIENCE
DATABASES["default"]["CONN_HEALTH_CHECKS"] = True
TEST_RUNNER = "config.runner.CoatlogRunner"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in ("MinimumLengthValidator", "CommonPasswordValidator", "UserAttributeSimilarityValidator")
]
# A hash that is slow on purpose is most of what a test's shop takes to found.
PASSWORD_HASHERS = [f"django.contrib.auth.hashers.{'MD5' if TEST_SESSIONS else 'Argon2'}PasswordHasher"]
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = 0.25
# One person at one address: a shared tablet does not lock out the whole shop.
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False
AXES_LOCKOUT_CALLABLE = "coatlog.shop.lockout.locked_out"
#: How often from one address, or by one person: many share a tablet, nobody types that fast.
TRIES = {"sign_in": "30/min", "sign_up": "10/h", "password": "10/h"}
if TEST_SESSIONS:
    TRIES = dict.fromkeys(TRIES, "100000/min")
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_AGE = 30 * 24 * 3600
CSRF_COOKIE_SAMESITE = "Lax"
SECURE_REFERRER_POLICY = "same-origin"
#: Behind a door that speaks HTTPS and says so by X-Forwarded-Proto: cookies never leave it.
HTTPS = env.bool("COATLOG_HTTPS", default=False)
NINJA_NUM_PROXIES = 1 if HTTPS else 0  # whose word about addresses counts
if HTTPS:
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = True
    SECURE_REDIRECT_EXEMPT = [r"^healthz$"]
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_HSTS_SECONDS = 30 * 24 * 3600
    CSRF_TRUSTED_ORIGINS = [f"https://{host.lstrip('.')}" for host in ALLOWED_HOSTS]
#: The address phones of the shop reach this server by, and the certificate they are to trust: it speaks HTTPS
#: itself then.
LAN = env.str("COATLOG_LAN", default="")
LAN_AUTHORITY = env.str("COATLOG_LAN_AUTHORITY", default="")
if LAN:
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "style-src": [SELF, "'unsafe-inline'"],
        "img-src": [SELF, "data:", "blob:"],  # blob: pictures not sent yet
        "object-src": [NONE],
        "base-uri": [SELF],
        "frame-ancestors": [NONE],
    }
}

PLANNER_SILENT_S = 5.0
#: The planner of full shops: one thing at a time; what a killed one held is taken up again.
PROCRASTINATE_WORKER_DEFAULTS = {
    "concurrency": 1,
    "delete_jobs": "always",
    "fetch_job_polling_interval": 5.0,
    "update_heartbeat_interval": 1.0,
    "stalled_worker_timeout": PLANNER_SILENT_S,
    "shutdown_graceful_timeout": 5.0,
}

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en"
STATIC_URL = "/static/"
WEB_DIST = BASE_DIR / "web" / "dist"
STATIC_ROOT = WEB_DIST
#: Names with a hash of their content in them never mean another file.
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/static/assets/.+-[\w-]{8}\.\w+$"
UPLOAD_LIMIT_BYTES = 8 * 1024 * 1024
DOCUMENT_LIMIT_BYTES = 64 * 1024 * 1024  # a job carries its pictures
DATA_UPLOAD_MAX_MEMORY_SIZE = UPLOAD_LIMIT_BYTES
#: `json`: a line of JSON for each thing the server says; else as people read it.
LINES = {"formatter": "lines"} if env.str("COATLOG_LOG", default="") == "json" else {}
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"lines": {"()": "coatlog.shop.log_lines.JsonLines"}},
    "handlers": {"console": {"class": "logging.StreamHandler", **LINES}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    # Refusals are what many tests are about.
    "loggers": {n: {"level": "CRITICAL"} for n in ("django.request", "axes")} if TEST_SESSIONS else {},
}
