"""Usage: python -m tests.outside.crew_office PORT TOKEN DATABASE GROUP..."""

import sys
from collections.abc import Callable
from typing import Any
from wsgiref.simple_server import WSGIRequestHandler, make_server

import django
from django.conf import settings
from django.core.management import call_command
from django.http import HttpResponse
from django.urls import include, path

port, token, database, *groups = sys.argv[1:]
OURS = "tests.outside.crew_office"


class Token:
    """Whoever has the token may do everything."""

    def __init__(self, get_response: Callable[[Any], Any]) -> None:
        self.get_response = get_response

    def __call__(self, request: Any) -> Any:
        from tests.outside.crew_office.models import Member

        if request.headers.get("Authorization") != f"Bearer {token}":
            return HttpResponse("Who are you?", status=401)
        request.user, _ = Member.objects.get_or_create(username="office")
        return self.get_response(request)


settings.configure(
    SECRET_KEY="only-here",
    DEBUG=False,
    ALLOWED_HOSTS=["127.0.0.1"],
    ROOT_URLCONF="__main__",
    INSTALLED_APPS=[
        "django.contrib.auth",
        "django.contrib.contenttypes",
        "django_scim",
        OURS,
    ],
    MIDDLEWARE=["__main__.Token", "django_scim.middleware.SCIMAuthCheckMiddleware"],
    AUTH_USER_MODEL="crew_office.Member",
    DATABASES={
        "default": {
            "ENGINE": "django.db.backends.sqlite3",
            "NAME": database,
            # Nobody's data: on a busy disk every write would wait for it, longer than is waited for.
            "OPTIONS": {"init_command": "PRAGMA synchronous=OFF; PRAGMA journal_mode=MEMORY"},
        }
    },
    DEFAULT_AUTO_FIELD="django.db.models.AutoField",
    PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"],
    APPEND_SLASH=False,
    SCIM_SERVICE_PROVIDER={
        "NETLOC": f"127.0.0.1:{port}",
        "SCHEME": "http",
        "GROUP_MODEL": f"{OURS}.models.Crew",
        "AUTHENTICATION_SCHEMES": [
            {"type": "oauthbearertoken", "name": "Bearer", "description": "RFC 6750"}
        ],
    },
)
django.setup()
urlpatterns = [path("scim/v2/", include("django_scim.urls"))]
call_command("migrate", run_syncdb=True, verbosity=0)

from django.core.handlers.wsgi import WSGIHandler  # noqa: E402

from tests.outside.crew_office.models import Crew  # noqa: E402

for name in groups:
    Crew.objects.get_or_create(name=name)


class Quiet(WSGIRequestHandler):
    def log_message(self, *args: Any) -> None:
        """Nothing."""


make_server("127.0.0.1", int(port), WSGIHandler(), handler_class=Quiet).serve_forever()
