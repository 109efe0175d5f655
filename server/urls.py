"""The API, and the built front end for every other address."""

from django.urls import path, re_path

from server.api.api import api
from server.web import PAGES, ROOT_FILES, asset, healthz, page, root_file

handler404 = "server.web.not_found"
urlpatterns = [
    path("api/", api.urls),
    path("healthz", healthz),
    *(path(name, root_file, {"name": name}) for name in ROOT_FILES),
    re_path(r"^assets/(?P<name>[\w.\-]+)$", asset),
    re_path(PAGES.pattern, page),
]
