"""The front: nginx from the system's packages before the application, with deadlines for headers and bodies, so that a
slow or hostile client holds a socket of the front and never a thread of the application.
"""

from __future__ import annotations

import ipaddress
import os
import shutil
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wolfsbane.server.core.config import Config

#: the built pages, which the front sends itself
PAGES = Path(__file__).resolve().parents[4] / "web" / "dist"
#: whole header, and between two pieces of a body or of a reply, s
HEADER_S, BODY_S, SEND_S = 10, 15, 30
#: sockets one address may hold; a school behind one address has a few for each screen
CONNECTIONS = 400
#: the largest body any route takes, MB
BODY_MB = 70
#: a whole school on its way out or in: the ZIP, MB, and how long it may take, s
SCHOOL_MB, SCHOOL_S = 600, 3600
#: a path of a socket may be so long on Linux
_LONGEST_PATH = 100


def program() -> str | None:
    """nginx, or None where it is not installed."""
    found = shutil.which("nginx") or "/usr/sbin/nginx"
    return found if os.access(found, os.X_OK) else None


def is_loopback(host: str) -> bool:
    """Whether an address to listen on reaches no further than this machine."""
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return False


def socket_in(folder: Path) -> Path:
    """Where the application listens for the front."""
    wanted = folder / "application.sock"
    if len(str(wanted)) <= _LONGEST_PATH:
        return wanted
    return Path(tempfile.mkdtemp(prefix="wolfsbane-")) / "application.sock"


def configuration(config: Config, port: int, socket: Path, folder: Path, web: Path) -> str:
    """Text of nginx's configuration: ``config`` says address and TLS files, ``web`` holds the built pages."""
    own = folder / "front"
    address = f"[{config.host}]" if ":" in config.host else config.host
    tls = bool(config.tls_certificate)
    secure = (
        f"""
        ssl_certificate {_quoted(config.tls_certificate)};
        ssl_certificate_key {_quoted(config.tls_key)};
        ssl_protocols TLSv1.2 TLSv1.3;
        ssl_session_cache shared:tls:4m;
        add_header Strict-Transport-Security "max-age=31536000" always;"""
        if tls
        else ""
    )
    user = "user root;\n" if os.geteuid() == 0 else ""
    paths = "\n    ".join(
        f"{name}_temp_path {_quoted(own / name)};" for name in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    proxy = """proxy_pass http://localhost;
            proxy_http_version 1.1;
            proxy_set_header Connection "";
            proxy_set_header Host $http_host;
            proxy_set_header X-Forwarded-For $remote_addr;
            proxy_set_header X-Forwarded-Proto $scheme;
            proxy_connect_timeout 5s;"""
    return f"""\
{user}daemon off;
worker_processes 2;
worker_rlimit_nofile 8192;
pid {_quoted(own / "pid")};
error_log stderr warn;
events {{ worker_connections 4000; }}
http {{
    {paths}
    access_log off;
    server_tokens off;
    default_type application/octet-stream;
    types {{ text/html html; text/css css; application/javascript js; image/svg+xml svg; font/woff2 woff2; }}
    sendfile on;
    client_header_timeout {HEADER_S}s;
    client_body_timeout {BODY_S}s;
    send_timeout {SEND_S}s;
    keepalive_timeout 30s;
    reset_timedout_connection on;
    large_client_header_buffers 4 8k;
    client_max_body_size {BODY_MB}m;
    limit_conn_zone $binary_remote_addr zone=address:4m;
    limit_conn address {CONNECTIONS};
    limit_conn_status 429;
    upstream localhost {{ server {_quoted(f"unix:{socket}")} fail_timeout=0; }}
    server {{
        listen {address}:{port}{" ssl" if tls else ""};
        server_name _;{secure}
        error_page 413 @large;
        error_page 429 @many;
        error_page 502 503 504 =503 @away;
        location @large {{
            default_type application/json;
            return 413 '{_error("too_large", f"at most {BODY_MB} MB")}';
        }}
        location @many {{
            default_type application/json;
            return 429 '{_error("too_many", "too many connections from this address; close some")}';
        }}
        location @away {{
            default_type application/json;
            return 503 '{_error("starting", "the server is starting; try again in a moment")}';
        }}
        location /assets/ {{
            root {_quoted(web)};
            gzip on;
            gzip_comp_level 6;
            gzip_types text/css application/javascript image/svg+xml;
            gzip_vary on;
            add_header Cache-Control "public, max-age=31536000, immutable";
            add_header X-Content-Type-Options nosniff;
            try_files $uri @application;
        }}
        location / {{ try_files /nowhere @application; }}
        location /api/v1/school/ {{
            client_max_body_size {SCHOOL_MB}m;
            {proxy}
            proxy_read_timeout {SCHOOL_S}s;
        }}
        location @application {{
            {proxy}
            proxy_read_timeout 150s;
        }}
    }}
}}
"""


def _quoted(text: object) -> str:
    plain = str(text)
    if any(c in plain for c in "\"'\\\n;{}$"):
        raise ValueError(f"{plain!r} cannot stand in nginx's configuration")
    return f'"{plain}"'


def _error(code: str, message: str) -> str:
    return f'{{"error":{{"code":"{code}","message":"{message}","field":null}}}}'


def written(config: Config, port: int, socket: Path, folder: Path, web: Path) -> list[str]:
    """Write the configuration; returns the command that runs the front. Raises ValueError for a path it cannot hold."""
    nginx = program()
    assert nginx is not None, "asked only where nginx is"
    own = folder / "front"
    own.mkdir(mode=0o700, parents=True, exist_ok=True)
    path = own / "nginx.conf"
    path.write_text(configuration(config, port, socket, folder, web))
    return [nginx, "-e", "stderr", "-p", str(own), "-c", str(path)]
