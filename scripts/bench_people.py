"""A browser's session with a bench server, for scripts: picks a name and carries its token."""

import json
from typing import Any
from urllib.request import HTTPCookieProcessor, Request, build_opener


class Session:
    """One person's. url: of the served application; name: picked, or added where it is not listed."""

    def __init__(self, url: str, name: str) -> None:
        self.url, self.cookies = url, HTTPCookieProcessor()
        self._opener = build_opener(self.cookies)
        self._opener.open(f"{url}/").close()
        here = self.get("/api/people/here")
        known = next((item["id"] for item in here["people"] if item["name"] == name), None)
        if known is None:
            self.send("/api/people/new", {"name": name})
        else:
            self.send("/api/people/pick", {"person": known})

    def cookie(self, name: str) -> str:
        """A cookie's value; empty for none."""
        return next((cookie.value or "" for cookie in self.cookies.cookiejar if cookie.name == name), "")

    def get(self, path: str) -> Any:
        """The answer's document. Raises HTTPError and URLError."""
        with self._opener.open(f"{self.url}{path}", timeout=120) as answer:
            return json.load(answer)

    def send(self, path: str, body: Any, **headers: str) -> Any:
        """The answer to a POST. Raises HTTPError and URLError."""
        told = {
            "Content-Type": "application/json",
            "X-CSRFToken": self.cookie("csrftoken"),
            "Origin": self.url,
            **headers,
        }
        with self._opener.open(Request(f"{self.url}{path}", json.dumps(body).encode(), told), timeout=120) as answer:
            return json.load(answer)
