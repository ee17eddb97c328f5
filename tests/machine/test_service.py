"""What root runs or writes belongs to root: no chown through links, no link followed, folders taken back."""

from __future__ import annotations

import os
import stat
from pathlib import Path

import pytest

from orderly_bench.machine import paths, service
from orderly_bench.machine.paths import appended
from orderly_bench.machine.service import Service, keep_for_root

#: An account that owns nothing here.
UID, GID = 54_321, 54_322
root_only = pytest.mark.skipif(os.geteuid() != 0, reason="only root gives files away")


@pytest.fixture
def outside(tmp_path: Path) -> Path:
    """A file of root's that no lab may touch, and a folder with one in it."""
    (tmp_path / "etc").mkdir()
    (tmp_path / "etc" / "crontab").write_text("root's own")
    return tmp_path / "etc"


@root_only
def test_giving_a_folder_away_follows_no_link(tmp_path: Path, outside: Path) -> None:
    folder = tmp_path / "photos"
    (folder / "deep").mkdir(parents=True)
    (folder / "deep" / "a.jpg").write_text("x")
    (folder / "file-link").symlink_to(outside / "crontab")
    (folder / "folder-link").symlink_to(outside)
    Service("servers", UID, GID).own_all(folder)
    assert [
        p.lstat().st_uid for p in (folder, folder / "deep" / "a.jpg", folder / "file-link", folder / "folder-link")
    ] == [UID] * 4
    assert [p.stat().st_uid for p in (outside, outside / "crontab")] == [0, 0]


def test_every_file_is_given_away_as_itself(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    given: list[tuple[str, bool]] = []
    monkeypatch.setattr(
        service.os,
        "chown",
        lambda path, uid, gid, follow_symlinks=True: given.append((Path(path).name, follow_symlinks)),
    )
    (tmp_path / "log").mkdir()
    (tmp_path / "log" / "requests.jsonl").write_text("{}")
    Service("servers", UID, GID).own_all(tmp_path / "log")
    assert given == [("log", False), ("requests.jsonl", False)]


@root_only
def test_a_folder_of_an_earlier_version_is_taken_back_without_its_links(tmp_path: Path, outside: Path) -> None:
    var = tmp_path / "var"
    (var / "data").mkdir(parents=True)
    (var / "secret").write_text("s")
    (var / "web.log").symlink_to(outside / "crontab")
    for path in (var, var / "data", var / "secret"):
        os.chown(path, UID, GID)
    keep_for_root(var)
    assert (var.stat().st_uid, stat.S_IMODE(var.stat().st_mode)) == (0, 0o711)
    assert (var / "secret").stat().st_uid == 0 and (var / "data").stat().st_uid == UID, (
        "what is a server's own stays its own"
    )
    assert not (var / "web.log").is_symlink() and (outside / "crontab").read_text() == "root's own"


def test_a_log_is_appended_to_and_a_link_in_its_place_refused(tmp_path: Path, outside: Path) -> None:
    log = tmp_path / "web.log"
    for line in (b"one\n", b"two\n"):
        with appended(log) as file:
            file.write(line)
    assert log.read_bytes() == b"one\ntwo\n" and stat.S_IMODE(log.stat().st_mode) == 0o600
    (tmp_path / "backup.log").symlink_to(outside / "crontab")
    with pytest.raises(OSError):
        appended(tmp_path / "backup.log")
    assert (outside / "crontab").read_text() == "root's own"


def test_what_runs_lies_where_the_servers_may_pass_and_not_write(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(paths, "VAR", tmp_path / "var")
    made = paths.make_var()
    assert stat.S_IMODE(made.stat().st_mode) == (0o711 if os.geteuid() == 0 else 0o700)
    assert made.stat().st_uid == os.geteuid()
