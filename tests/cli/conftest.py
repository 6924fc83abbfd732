from __future__ import annotations

import signal
from pathlib import Path

import pytest
from tests.cli.program import mangler, said
from tests.cli.remote_places import LOG, RECIPE, Elsewhere, by_sftp, in_objects

# A shell starts what runs in its background with this signal ignored, and every program started from there
# ignores it too: tests that send it would wait for an end that does not come.
if signal.getsignal(signal.SIGINT) is signal.SIG_IGN:
    signal.signal(signal.SIGINT, signal.default_int_handler)


@pytest.fixture(params=["sftp", "objects"])
def there(request: pytest.FixtureRequest, tmp_path: Path) -> Elsewhere:
    """A place that files can be put in."""
    server = request.getfixturevalue(request.param)
    return by_sftp(server, tmp_path.name) if request.param == "sftp" else in_objects(server, tmp_path.name)


@pytest.fixture
def here(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text(RECIPE, "utf-8")
    (tmp_path / "log.csv").write_text(LOG, "utf-8")
    done = mangler("run", "r.mangler", "log.csv", "--to", "expected.csv", cwd=tmp_path)
    assert done.returncode == 0, said(done)
    return tmp_path
