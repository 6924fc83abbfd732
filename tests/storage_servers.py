"""Servers for tests of files elsewhere: SFTP, the web, object storage. Each in a temporary folder, on loopback."""

from __future__ import annotations

import contextlib
import getpass
import os
import shutil
import socket
import subprocess
import sys
import tempfile
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from time import monotonic, sleep

import pytest

HOST = "127.0.0.1"
STARTS_WITHIN = 30
CERTIFICATE = ["req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=kilns.example"]
NAMED = ["-addext", "subjectAltName=DNS:kilns.example"]


def free_port() -> int:
    with socket.socket() as one:
        one.bind((HOST, 0))
        return int(one.getsockname()[1])


def _program(name: str, package: str) -> str:
    found = shutil.which(name) or shutil.which(name, path="/usr/sbin:/usr/local/sbin:/sbin")
    if found is None:
        pytest.skip(f"{name} is not installed: apt-get install {package}")
    return found


def _await(port: int, process: subprocess.Popen[bytes], log: Path) -> None:
    end = monotonic() + STARTS_WITHIN
    while monotonic() < end and process.poll() is None:
        with contextlib.suppress(OSError), socket.create_connection((HOST, port), 1):
            return
        sleep(0.05)
    raise AssertionError(f"no server at {port}: {log.read_text('utf-8') if log.exists() else ''}")


@dataclass(frozen=True)
class Sftp:
    folder: Path
    """What is served; its paths are those of this machine."""
    port: int
    home: Path
    """A home folder in which the server's key is known, and ours is."""
    process: subprocess.Popen[bytes]

    def address(self, name: str) -> str:
        return f"sftp://{getpass.getuser()}@{HOST}:{self.port}{self.folder}/{name}"

    @property
    def environment(self) -> dict[str, str]:
        return {"HOME": str(self.home)}

    def trust(self, port: int) -> None:
        """Lets the server be known at another port too."""
        known = self.home / ".ssh" / "known_hosts"
        key = known.read_text("utf-8").splitlines()[0].partition(" ")[2]
        with known.open("a", encoding="utf-8") as file:
            file.write(f"[{HOST}]:{port} {key}\n")


SSHD = """\
Port {port}
ListenAddress {host}
HostKey {folder}/server
AuthorizedKeysFile {folder}/home/.ssh/id_ed25519.pub
PidFile {folder}/pid
StrictModes no
UsePAM no
PasswordAuthentication no
KbdInteractiveAuthentication no
Subsystem sftp internal-sftp
"""


@contextlib.contextmanager
def sftp_started() -> Iterator[Sftp]:
    """OpenSSH's server, for this user and a key that is made for it."""
    program = _program("sshd", "openssh-server")
    if os.geteuid() == 0:
        Path("/run/sshd").mkdir(exist_ok=True)  # it will not start for root without
    folder = Path(tempfile.mkdtemp(prefix="mangler-"))
    keys = folder / "home" / ".ssh"
    keys.mkdir(parents=True)
    served = folder / "served"
    served.mkdir()
    for key in (folder / "server", keys / "id_ed25519"):
        subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", key], check=True)
    port = free_port()
    public = (folder / "server.pub").read_text("utf-8")
    (keys / "known_hosts").write_text(f"[{HOST}]:{port} {public}", "utf-8")
    configuration = folder / "sshd_config"
    configuration.write_text(SSHD.format(port=port, host=HOST, folder=folder), "utf-8")
    log = folder / "log"
    process = subprocess.Popen([program, "-D", "-f", configuration, "-E", log])
    try:
        _await(port, process, log)
        yield Sftp(served, port, folder / "home", process)
    finally:
        process.terminate()
        process.wait()
        shutil.rmtree(folder, ignore_errors=True)


def make_certificate(key: Path, certificate: Path) -> None:
    """One that nobody has signed, for the host kilns.example."""
    words = ["openssl", *CERTIFICATE, *NAMED, "-keyout", key, "-out", certificate]
    subprocess.run(words, check=True, capture_output=True)


@dataclass(frozen=True)
class Web:
    folder: Path
    port: int
    secure_port: int
    certificate: Path

    def address(self, name: str, user: str = "") -> str:
        return f"http://{user}{HOST}:{self.port}/{name}"


NGINX = """\
daemon off;
master_process off;
error_log {folder}/log;
pid {folder}/pid;
events {{}}
http {{
  access_log off;
  default_type application/octet-stream;
  client_body_temp_path {folder}; proxy_temp_path {folder}; fastcgi_temp_path {folder};
  uwsgi_temp_path {folder}; scgi_temp_path {folder};
  server {{
    listen {host}:{port};
    listen {host}:{secure_port} ssl;
    ssl_certificate {folder}/certificate.pem;
    ssl_certificate_key {folder}/key.pem;
    root {folder}/served;
    autoindex on;
    location /whole/ {{ max_ranges 0; alias {folder}/served/; }}
    location /shut/ {{
      auth_basic "kilns"; auth_basic_user_file {folder}/users; alias {folder}/served/;
    }}
  }}
}}
"""
USERS = "ann:{PLAIN}sesame-77\n"


@contextlib.contextmanager
def web_started() -> Iterator[Web]:
    """nginx: open files, `/shut/` for ann alone, `/whole/` without ranges of bytes, and all of it with TLS."""
    program = _program("nginx", "nginx-light")
    folder = Path(tempfile.mkdtemp(prefix="mangler-"))
    folder.chmod(0o755)
    served = folder / "served"
    served.mkdir()
    make_certificate(folder / "key.pem", folder / "certificate.pem")
    (folder / "users").write_text(USERS, "utf-8")
    port, secure_port = free_port(), free_port()
    configuration = folder / "nginx.conf"
    configuration.write_text(
        NGINX.format(folder=folder, host=HOST, port=port, secure_port=secure_port), "utf-8"
    )
    log = folder / "log"
    process = subprocess.Popen([program, "-c", configuration, "-e", log], stderr=subprocess.DEVNULL)
    try:
        _await(port, process, log)
        yield Web(served, port, secure_port, folder / "certificate.pem")
    finally:
        process.terminate()
        process.wait()
        shutil.rmtree(folder, ignore_errors=True)


BUCKET = "kilns"


@dataclass(frozen=True)
class Objects:
    """Object storage with the one bucket `kilns`."""

    port: int

    @property
    def endpoint(self) -> str:
        return f"http://{HOST}:{self.port}"

    @property
    def environment(self) -> dict[str, str]:
        return {
            "AWS_ENDPOINT_URL": self.endpoint,
            "AWS_ACCESS_KEY_ID": "tester",
            "AWS_SECRET_ACCESS_KEY": "sesame-88",
            "AWS_DEFAULT_REGION": "us-east-1",
        }

    def client(self):  # type: ignore[no-untyped-def]
        import boto3

        return boto3.client(
            "s3",
            endpoint_url=self.endpoint,
            aws_access_key_id="tester",
            aws_secret_access_key="sesame-88",
            region_name="us-east-1",
        )

    def put(self, key: str, content: bytes) -> None:
        self.client().put_object(Bucket=BUCKET, Key=key, Body=content)

    def get(self, key: str) -> bytes:
        return bytes(self.client().get_object(Bucket=BUCKET, Key=key)["Body"].read())

    @property
    def keys(self) -> list[str]:
        return sorted(one["Key"] for one in self.client().list_objects_v2(Bucket=BUCKET).get("Contents", []))


@contextlib.contextmanager
def objects_started() -> Iterator[Objects]:
    port, folder = free_port(), Path(tempfile.mkdtemp(prefix="mangler-"))
    log = folder / "log"
    with log.open("wb") as told:
        words = [sys.executable, "-W", "ignore", "-m", "moto.server", "-H", HOST, "-p", str(port)]
        process = subprocess.Popen(words, stdout=told, stderr=told)
    try:
        _await(port, process, log)
        found = Objects(port)
        found.client().create_bucket(Bucket=BUCKET)
        yield found
    finally:
        process.terminate()
        process.wait()
        shutil.rmtree(folder, ignore_errors=True)


class Breaking:
    """A proxy that drops a connection after so many bytes, as often as it is told.

    They are those of answers, or with `requests` those that are sent.
    """

    def __init__(self, port: int, after: int, times: int, requests: bool = False) -> None:
        self._to, self._after, self._times, self._requests = port, after, times, requests
        self._listening = socket.create_server((HOST, 0))
        self.port = int(self._listening.getsockname()[1])
        self.dropped = 0
        threading.Thread(target=self._accept, daemon=True).start()

    def _accept(self) -> None:
        with contextlib.suppress(OSError):
            while True:
                here, _ = self._listening.accept()
                there = socket.create_connection((HOST, self._to))
                for source, target, counts in (
                    (here, there, self._requests),
                    (there, here, not self._requests),
                ):
                    threading.Thread(target=self._pass, args=(source, target, counts), daemon=True).start()

    def _pass(self, source: socket.socket, target: socket.socket, counts: bool) -> None:
        passed = 0
        with contextlib.suppress(OSError):
            while piece := source.recv(1 << 14):
                passed += len(piece)
                if counts and passed > self._after and self.dropped < self._times:
                    self.dropped += 1
                    break
                target.sendall(piece)
        for one in (source, target):
            with contextlib.suppress(OSError):
                one.shutdown(socket.SHUT_RDWR)

    def close(self) -> None:
        self._listening.close()
