"""What is said when a place elsewhere does not give or take a file. Passwords are in none of it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from mangler.addresses import scrubbed
from mangler.language.mistake import Refusal, file_trouble

OWN_EXTRA = ("s3", "s3a", "sftp", "ssh", "http", "https")
"""What `mangler[remote]` brings the drivers for."""
LONGEST = 300
"""Characters of what a library says."""
CERTIFICATE = ("certificate", "[ssl")
NOT_LET_IN = ("403", "401", "forbidden", "access denied", "unauthorized", "invalidaccesskey", "credentials")


def one_line(error: BaseException) -> str:
    """What a library says, in one line."""
    told = "; ".join(line.strip() for line in str(error).splitlines() if line.strip())
    told = told.removeprefix("[Errno None] ")
    return scrubbed(told)[:LONGEST] or type(error).__name__


@contextmanager
def told(name: str) -> Iterator[None]:
    """Whatever a library raises becomes a refusal that names the place; a driver that is not there passes."""
    try:
        yield
    except (Refusal, ImportError):
        raise
    except Exception as error:
        raise refusal_of(name, error) from None


def refusal_of(name: str, error: Exception) -> Refusal:
    """What is said of a failure at the start, before anything was read or written."""
    cause = error.__cause__
    if isinstance(error, FileNotFoundError) and isinstance(cause, Exception):
        # Of the web every failure comes as this one.
        error = error if getattr(cause, "status", None) in (404, 410) else cause
    said = one_line(error)
    small = said.lower()
    if isinstance(error, FileNotFoundError):
        return file_trouble("no-such-file", f"{name} does not exist")
    if "NoSuchBucket" in said:
        return file_trouble("no-such-file", f"{name} does not exist, nor does its bucket")
    if isinstance(error, IsADirectoryError):
        return is_folder(name)
    if "known_hosts" in small or "host key" in small:
        return file_trouble(
            "storage-not-reached",
            f"{name} cannot be reached: {said}",
            "The keys of servers that are trusted are in ~/.ssh/known_hosts. Once you know that the key is right,"
            " add it there: ssh-keyscan prints it.",
        )
    if any(word in small for word in CERTIFICATE):
        return file_trouble(
            "storage-not-reached",
            f"{name} cannot be reached: its certificate does not fit: {said}",
            "A certificate authority of your own is named by SSL_CERT_FILE, or AWS_CA_BUNDLE for s3://.",
        )
    if isinstance(error, PermissionError) or any(word in small for word in NOT_LET_IN) or _of_login(error):
        return file_trouble(
            "storage-not-reached",
            f"{name} may not be reached: {said}",
            "Who you are is told as its own tools expect it: environment variables, their files, ~/.ssh, ~/.netrc.",
        )
    return file_trouble("storage-not-reached", f"{name} cannot be reached: {said}")


def _of_login(error: Exception) -> bool:
    return type(error).__name__ in (
        "AuthenticationException",
        "BadAuthenticationType",
        "ClientAuthenticationError",
    )


def is_folder(name: str) -> Refusal:
    plain = name.rstrip("/")
    return file_trouble(
        "path-is-folder", f"{plain} is a folder", f"All files in it: {plain}/ and some: '{plain}/*.csv'"
    )


def breaks_off(name: str, error: Exception, at: int, tries: int) -> Refusal:
    """A file that could not be read to its end, however often that was tried."""
    return file_trouble(
        "storage-fails",
        f"{name} cannot be read beyond byte {at:,}, tried {tries} times: {one_line(error)}",
        "Nothing is delivered. Run again when the connection is better.",
    )


def changed(name: str) -> Refusal:
    return file_trouble(
        "file-changed",
        f"{name} was changed while it was read",
        "Nothing is delivered. Run again when it is written to its end.",
    )


def not_written(name: str, error: Exception) -> Refusal:
    return file_trouble(
        "file-not-written",
        f"{name} cannot be written: {one_line(error)}",
        "What was there before is unchanged.",
    )


def not_installed(name: str, scheme: str, error: ImportError) -> Refusal:
    """The driver of a scheme is not there. fsspec says which one it is."""
    advice = str(error) if scheme not in OWN_EXTRA and "nstall" in str(error) else ""
    return file_trouble(
        "driver-not-installed",
        f"{name} cannot be reached: the driver of {scheme}:// is not installed",
        advice or "pip install 'mangler[remote]' brings it.",
    )
