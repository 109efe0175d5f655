"""Tries the nginx configuration of docs/operations.md: with a server behind it, over TLS, as people and as strangers.

    python scripts/try_proxy.py

Needs Debian's nginx and openssl. Every line that it prints is one thing that was tried; it ends with status 1 where one fails.
"""

import json
import os
import re
import socket
import ssl
import subprocess
import sys
import tempfile
from http.client import HTTPSConnection
from pathlib import Path
from time import sleep, time
from typing import Any

from measure_kills import ROOT, answers

NAME, TLS_PORT, PORT = "dianoia.depot.example", 8543, 8768
PASSWORD = "four-wires-and-a-shell"


def configuration(folder: Path) -> str:
    """The document's own block, with this trial's ports and certificate in place of the workshop's."""
    (block,) = re.findall(r"```nginx\n(.*?)```", (ROOT / "docs/operations.md").read_text(encoding="utf-8"), re.DOTALL)
    for found, own in (
        ("listen 443 ssl;", f"listen 127.0.0.1:{TLS_PORT} ssl;"),
        ("http://127.0.0.1:8000", f"http://127.0.0.1:{PORT}"),
        ("/etc/ssl/dianoia.pem", f"{folder}/dianoia.pem"),
        ("/etc/ssl/private/dianoia.key", f"{folder}/dianoia.key"),
    ):
        assert found in block, found
        block = block.replace(found, own)
    paths = "".join(
        f"{name}_temp_path {folder}/{name};" for name in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    return (
        f"user root; pid {folder}/nginx.pid; error_log {folder}/error.log; daemon off; "
        f"events {{}} http {{ access_log off; {paths} {block} }}"
    )


class Visitor:
    """A browser of its own: its cookies, over TLS."""

    def __init__(self) -> None:
        self.cookies: dict[str, str] = {}
        self.context = ssl.create_default_context()
        self.context.check_hostname, self.context.verify_mode = False, ssl.CERT_NONE

    def ask(self, method: str, path: str, body: bytes | None = None, **headers: str) -> tuple[int, Any]:
        """Status and document of the answer."""
        told = {"Host": NAME, "Cookie": "; ".join(f"{name}={value}" for name, value in self.cookies.items())}
        if method != "GET":
            told |= {"Content-Type": "application/json", "X-CSRFToken": self.cookies.get("csrftoken", ""),
                     "Origin": f"https://{NAME}"}  # fmt: skip
        line = HTTPSConnection("127.0.0.1", TLS_PORT, timeout=60, context=self.context)
        line.request(method, path, body, {**told, **headers})
        answer = line.getresponse()
        for name, value in answer.getheaders():
            if name.lower() == "set-cookie":
                key, _, rest = value.partition("=")
                self.cookies[key] = rest.partition(";")[0]
        data = answer.read()
        return answer.status, json.loads(data) if data.startswith((b"{", b"[")) else None

    def sign_in(self, password: str, **headers: str) -> int:
        """The status of signing in as Ana."""
        self.ask("GET", "/")
        body = json.dumps({"name": "Ana", "password": password}).encode()
        return self.ask("POST", "/api/people/sign-in", body, **headers)[0]


def slow_headers() -> float:
    """Seconds until a client that sends its headers drop by drop is cut off."""
    began, context = time(), Visitor().context
    with socket.create_connection(("127.0.0.1", TLS_PORT), timeout=60) as plain, context.wrap_socket(plain) as line:
        line.sendall(b"GET / HTTP/1.1\r\n")
        while time() - began < 50:
            try:
                line.sendall(b"X: 1\r\n")
                line.settimeout(2)
                if line.recv(1) == b"":
                    break
            except TimeoutError:
                continue
            except OSError:
                break
    return time() - began


def tried() -> list[tuple[str, bool]]:
    """What was tried, and whether it went as it should."""
    ana, stranger = Visitor(), Visitor()
    found = [("Ana signs in over TLS", ana.sign_in(PASSWORD) == 200)]
    found.append(("her cookie opens the jobs", ana.ask("GET", "/api/jobs")[0] == 200))
    found.append(("a made-up X-Forwarded-For does not change who is counted",
                  [stranger.sign_in("wrong", **{"X-Forwarded-For": f"198.51.100.{n}"}) for n in range(5)][-1] == 429))  # fmt: skip
    found.append(("the stranger beside her does not lock Ana's own device out", ana.sign_in(PASSWORD) == 200))
    status, said = stranger.ask("POST", "/api/people/sign-in", b" " * 65_000)
    found.append((f"a stranger's 65 kB are refused ({status}: {said})", status == 413))
    found.append(("21 MB are refused", ana.ask("PUT", "/api/workshop/mark", b" " * 21_000_000)[0] == 413))
    seconds = slow_headers()
    found.append((f"headers drop by drop are cut off (after {seconds:.0f} s)", seconds < 45))
    return found


def main() -> None:
    """Start both, try, stop both."""
    folder = Path(tempfile.mkdtemp(prefix="dianoia-proxy-"))
    told = {**os.environ, "DIANOIA_VAR": str(folder / "var"), "DIANOIA_HOSTS": NAME, "DIANOIA_PROXY": "1", "DIANOIA_WORKERS": "0",
            "DIANOIA_LOG": "CRITICAL"}  # fmt: skip
    told.pop("DIANOIA_BENCH", None)
    manage = [sys.executable, str(ROOT / "manage.py")]
    subprocess.run([*manage, "upgrade"], env=told, check=True)
    added = "from server.people.roles import add_person; add_person('Ana', 'foreman', '" + PASSWORD + "')"
    subprocess.run([*manage, "shell", "-c", added], env=told, check=True, stdout=subprocess.DEVNULL)
    subprocess.run(["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", f"/CN={NAME}",
                    "-keyout", str(folder / "dianoia.key"), "-out", str(folder / "dianoia.pem")], check=True, capture_output=True)  # fmt: skip
    (folder / "nginx.conf").write_text(configuration(folder), encoding="utf-8")
    server = subprocess.Popen([*manage, "serve", "--listen", f"127.0.0.1:{PORT}"], env=told)
    proxy = subprocess.Popen(["nginx", "-c", str(folder / "nginx.conf"), "-p", str(folder)])
    try:
        sleep(6)
        answers(f"http://127.0.0.1:{PORT}")
        found = tried()
    finally:
        for process in (proxy, server):
            process.terminate()
            process.wait()
    for what, held in found:
        print("ok  " if held else "NOT ", what)
    sys.exit(not all(held for _, held in found))


if __name__ == "__main__":
    main()
