"""The API, and the built front end for every other address."""

from django.urls import path, re_path

from server.jobs.api import api
from server.web import asset, healthz, page

urlpatterns = [
    path("api/", api.urls),
    path("healthz", healthz),
    re_path(r"^assets/(?P<name>[\w.\-]+)$", asset),
    re_path(r"^(?!api/).*$", page),
]
