"""Two processes of the app on one database, behind Debian's nginx: one on a port, one on a Unix socket."""

import os
import re
import signal
import ssl
import subprocess
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import NamedTuple

import httpx2

from tests.forked import Forked
from tests.servers import free_port
from upper_rook.store.certificates import certificates

NGINX = "/usr/sbin/nginx"
_CONF = """
daemon off;
error_log {folder}/error.log;
pid {folder}/nginx.pid;
events {{ worker_connections 4096; }}
http {{
  access_log off;
  client_body_temp_path {folder}/body; proxy_temp_path {folder}/proxy; fastcgi_temp_path {folder}/f;
  uwsgi_temp_path {folder}/u; scgi_temp_path {folder}/s;
  upstream rook {{ server 127.0.0.1:{own_port}; server unix:{socket}; }}
  server {{
    listen 127.0.0.1:{port} ssl;
    ssl_certificate {certificate}; ssl_certificate_key {key};
    location / {{
      proxy_pass http://rook;
      proxy_http_version 1.1;
      proxy_buffering off;
      proxy_set_header Host $http_host;
      proxy_set_header X-Forwarded-For $remote_addr;
      proxy_set_header X-Forwarded-Proto $scheme;
    }}
  }}
}}
"""


class Workshop(NamedTuple):
    """Where it is asked, and how."""

    url: str
    trusting: ssl.SSLContext
    port: int
    """Of the one process, which nobody asks."""
    socket: Path
    """Of the other."""
    link: str
    """By which the owner comes in."""

    def client(self) -> httpx2.Client:
        """Somebody who trusts the workshop's authority."""
        return httpx2.Client(base_url=self.url, verify=self.trusting, timeout=20)


@contextmanager
def _process(*words: str, until: str | None = None, **environment: str) -> Iterator[str]:
    """A program that runs meanwhile, and what it printed until it was ready."""
    with subprocess.Popen(
        words, env=os.environ | environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    ) as running:
        told = ""
        while until and until not in told:
            line = running.stdout.readline() if running.stdout else ""
            assert line, told
            told += line
        yield told
        running.send_signal(signal.SIGTERM)
        running.wait(20)


@contextmanager
def two_behind_nginx(folder: Path, database: str) -> Iterator[Workshop]:
    """Both processes and the proxy, until the context ends."""
    port, own_port, own_socket = free_port(), free_port(), folder / "app.sock"
    made = certificates(folder / "doors", ("localhost",))
    conf = folder / "nginx.conf"
    conf.write_text(
        _CONF.format(
            folder=folder,
            own_port=own_port,
            socket=own_socket,
            port=port,
            certificate=made.certificate,
            key=made.key,
        ),
        "utf-8",
    )
    with ExitStack() as running:
        told = ""
        for number, behind in enumerate(("127.0.0.1", str(own_socket))):
            words = ("serve", "--behind-proxy", behind, "--host-name", f"localhost:{port}", "--port", str(own_port))
            environment = os.environ | {"DATABASE_URL": database, "ROOK_DATA": str(folder / str(number))}
            app = Forked(words, environment)
            running.callback(app.end)
            told = app.printed(until="Ctrl-C")
        # Each start makes the first link anew.
        link = re.search(r"https://localhost:\d+/come-in#(\S+)", told)
        assert link, told
        running.enter_context(_process(NGINX, "-c", str(conf), "-p", str(folder)))
        trusting = ssl.create_default_context(cafile=str(made.authority))
        workshop = Workshop(f"https://localhost:{port}", trusting, own_port, own_socket, link[1])
        with workshop.client() as client:
            _wait(client)
        yield workshop


def _wait(client: httpx2.Client) -> None:
    for _ in range(200):
        try:
            if client.get("/api/health").status_code == 200:
                return
        except httpx2.TransportError:
            time.sleep(0.05)
    raise AssertionError("nginx never answered")
