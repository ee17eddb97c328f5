"""The commands of ``./bench``."""

from __future__ import annotations

import argparse
import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from orderly_bench.machine import assets, cluster, environment, keeping, packages, ports, serve
from orderly_bench.machine.database_server import DatabaseServer
from orderly_bench.machine.paths import PYTHON, ROOT, VAR, make_var
from orderly_bench.machine.problem import Problem, complain, say

DEFAULT_PORT = 8790
#: Memory of a test process with its browser.
GB_EACH = 2
#: Headless commands and what each is for; its own help has the flags and an example.
FORWARDED = {
    "analyse": "compare the arms of tidy CSV files",
    "arms": "which asked contrasts the arms of a plan can tell apart",
    "power": "power and smallest reachable p of a layout",
    "rehearse": "how often a trial of two arms would reach each verdict",
    "stick-for": "how many to stick for so many plants",
    "claims": "which sentences a file carries",
    "combine": "one question over several trials",
    "conditions": "what a logger's file says of warmth, light and dryness",
    "kappa": "agreement of two scorers",
    "sum": "a sum of the bench, with its working: dilution, medium, frost and others",
    "nodes": "how the nodes of the lab's database stand",
    "words": "write the list of all texts, to be said in another language",
}
#: Folders of tests that ask for no database.
WITHOUT_DATABASE = ("chapters", "cli", "core", "figures", "formats", "project")
#: What ``check`` runs, at once.
CHECKS = {
    "style": ["ruff", "check", "."],
    "format": ["ruff", "format", "--check", "."],
    "types": ["mypy"],
    "contracts": ["lint-imports"],
    "words and styles": ["pytest", "-q", "-p", "no:xdist", "-o", "addopts=", "-k", "not imports_go and not linter", "tests/project"],
}  # fmt: skip


def main(argv: list[str]) -> int:
    """Run one command; trouble is one message and status 1."""
    os.umask(0o077)
    try:
        if argv and argv[0] in FORWARDED:
            environment.ensure()
            return _headless(argv, _with_root())
        if argv and argv[0] == "benchmark":
            return _benchmark(argv)
        arguments, rest = _parser().parse_known_args(argv)
        if rest and arguments.command != "test":
            raise Problem(f"Not understood: {' '.join(rest)}. ./bench --help lists the commands.")
        arguments.rest = rest
        return int(arguments.act(arguments))
    except Problem as problem:
        complain(str(problem))
        return 1
    except OSError as error:
        complain(f"{error}. Check that the disk has room and that you may write in this folder.")
        return 1
    except KeyboardInterrupt:
        return 130


def _with_root() -> dict[str, str]:
    """The environment of what runs in ours: its compiled modules are kept, beside the tree and not in it."""
    settings = dict(os.environ, PYTHONPATH=str(ROOT), PYTHONPYCACHEPREFIX=str(VAR / "compiled"))
    settings.pop("PYTHONDONTWRITEBYTECODE", None)
    return settings


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="./bench", description="Orderly Bench. Each command has a help of its own: ./bench analyse --help"
    )
    commands = parser.add_subparsers(dest="command", required=True)
    for mode, what in (("demo", "serve the demo lab"), ("run", "serve your own lab")):
        command = commands.add_parser(mode, help=what)
        command.add_argument("--port", type=int, default=DEFAULT_PORT)
        if mode == "demo":
            command.add_argument("--fresh", action="store_true", help="throw the demo lab away and load it anew")
        command.add_argument(
            "--lan", nargs="?", const="", metavar="ADDRESS", help="serve phones on the lab's network, by TLS only"
        )
        command.add_argument("--cert", help="with --lan: your own certificate, a PEM file")
        command.add_argument("--key", help="with --lan: its key, a PEM file without a password")
        if mode == "run":
            command.add_argument(
                "--new-secret", action="store_true", help="the secret this lab was served with is lost for good"
            )
        command.add_argument("--development", action="store_true", help="also serve the page of interface parts")
        command.set_defaults(act=_serve)
    command = commands.add_parser(
        "cluster", help="serve the demo lab from several nodes and web servers on this machine, for trial"
    )
    command.add_argument(
        "--nodes", type=int, default=3, help="nodes of the database (3); an even number gets an arbitrator"
    )
    command.add_argument("--servers", type=int, default=2, help="web servers (2)")
    command.add_argument("--port", type=int, default=DEFAULT_PORT)
    command.add_argument("--fresh", action="store_true", help="begin anew")
    command.set_defaults(act=lambda a: cluster.run(a.nodes, a.servers, a.port, a.fresh))
    for name, what in (
        ("backup", "write the lab into a file, also while it runs"),
        ("restore", "put the lab of a file into an empty installation"),
        ("upgrade", "back up, bring the lab to this version, check it"),
    ):
        command = commands.add_parser(name, help=what)
        if name != "upgrade":
            command.add_argument("file")
            command.add_argument(
                "--passphrase-file", default="", help="seal or open it with the passphrase in this file"
            )
        if name == "backup":
            command.add_argument(
                "--every",
                metavar="day",
                help="not now: FILE is a folder, and the running lab backs up into it every hour, day or week; never ends it",
            )
            command.add_argument("--keep", type=int, default=14, help="with --every: how many are kept (14)")
        if name == "restore":
            command.add_argument(
                "--over", action="store_true", help="in the place of the lab that is here, which is kept first"
            )
        command.add_argument("--demo", action="store_true", help="the demo lab instead of yours")
        command.set_defaults(act=keeping.act)
    for name, what in {**FORWARDED, "benchmark": "medians of what people wait for"}.items():
        commands.add_parser(name, help=what)
    check = commands.add_parser("check", help="style, format, types, contracts, words and styles: in seconds")
    check.set_defaults(act=_check)
    test = commands.add_parser(
        "test", help="install what tests need and run them, --cluster on three nodes; more words go to pytest"
    )
    test.set_defaults(act=_test)
    audit = commands.add_parser("audit", help="list the parts and ask for known weaknesses of them (needs a network)")
    audit.set_defaults(act=_audit)
    build = commands.add_parser("assets", help="rebuild the committed styles (needs Node 20)")
    build.set_defaults(act=lambda _: assets.build())
    lock = commands.add_parser("lock", help="compile the hashed requirement files")
    lock.set_defaults(act=_lock)
    return parser


def _serve(arguments: argparse.Namespace) -> int:
    lan = None
    if arguments.lan is not None:
        lan = serve.Lan(arguments.lan or ports.on_the_network(), arguments.cert, arguments.key)
    elif arguments.cert or arguments.key:
        raise Problem("--cert and --key go with --lan.")
    fresh = getattr(arguments, "fresh", False)
    more = ["--fresh"] * fresh + ["--new-secret"] * getattr(arguments, "new_secret", False)
    return serve.serve(arguments.command, arguments.port, more, arguments.development, lan)


def _check(_arguments: argparse.Namespace) -> int:
    """All checks side by side; what one of them says is shown where it fails."""
    environment.ensure(for_tests=True)
    running = {
        name: subprocess.Popen(
            [str(PYTHON.parent / program), *words], cwd=ROOT, env=_with_root(), stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
        )
        for name, (program, *words) in CHECKS.items()
    }  # fmt: skip
    failed = 0
    for name, process in running.items():
        told, _ = process.communicate()
        if process.returncode == 0:
            say(f"{name}: as it should be")
        else:
            failed = 1
            complain(f"{name}:\n{told.strip()}")
    return failed


def _without_database(words: list[str]) -> bool:
    """Whether tests are named, and none of them lies where a database is asked for."""
    places = [Path(word.partition("::")[0]).parts for word in words if word.startswith("tests/")]
    return bool(places) and all(len(place) > 1 and place[1] in WITHOUT_DATABASE for place in places)


def _test(arguments: argparse.Namespace) -> int:
    if _without_database(arguments.rest):
        environment.ensure(for_tests=True)
        return subprocess.run(
            [str(PYTHON), "-m", "pytest", *arguments.rest], cwd=ROOT, env=_with_root(), check=False
        ).returncode
    packages.install(packages.TO_RUN + packages.TO_TEST)
    environment.ensure(for_tests=True)
    rest = [word for word in arguments.rest if word != "--cluster"]
    with cluster.for_tests("orderly_test") if rest != arguments.rest else _single() as url:
        settings = dict(_with_root(), ORDERLY_BENCH_TEST_URL=url)
        return subprocess.run(
            [str(PYTHON), "-m", "pytest", *_workers(rest), *rest], cwd=ROOT, env=settings, check=False
        ).returncode


@contextmanager
def _single() -> Iterator[str]:
    """A server for the tests, and the address of a database on it."""
    server = DatabaseServer("test-mariadb")
    server.start(("orderly_test",))
    try:
        yield server.owner_url("orderly_test")
    finally:
        server.stop()


def _headless(argv: list[str], settings: dict[str, str]) -> int:
    return subprocess.run([str(PYTHON), "-m", "orderly_bench.cli", *argv], check=False, env=settings).returncode


def _benchmark(argv: list[str]) -> int:
    """The medians, with a private database for those that need one."""
    packages.install(packages.TO_RUN)
    environment.ensure()
    with _single() as url:
        return _headless(argv, dict(_with_root(), ORDERLY_BENCH_TEST_URL=url))


def _workers(rest: list[str]) -> list[str]:
    """Test processes, files kept together, unless a number is asked for: half as many again as cores, for a third of their time they
    wait for a browser or a server; as many as cores where memory is short.
    """
    if any(word == "-n" or word.startswith("-n") for word in rest):
        return []
    cores, memory = os.cpu_count() or 1, os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") / 2**30
    return ["-n", str(max(cores, min(cores + cores // 2, int(memory // GB_EACH)))), "--dist", "loadfile"]


def _audit(_arguments: argparse.Namespace) -> int:
    """The parts as CycloneDX, and what is known against them; a part that nobody could be asked about is no clean one."""
    environment.ensure(for_tests=True)
    file = make_var() / "parts.json"
    listing = [str(PYTHON), "-m", "cyclonedx_py", "requirements", "requirements.txt", "--of", "JSON", "-o", str(file)]
    if subprocess.run(listing, cwd=ROOT, check=False, capture_output=True).returncode != 0:
        raise Problem("The parts could not be listed.")
    say(f"The parts: {file}")
    asking = [
        str(PYTHON),
        "-m",
        "pip_audit",
        "--requirement",
        "requirements.txt",
        "--require-hashes",
        "--disable-pip",
        "--strict",
    ]
    done = subprocess.run(asking, cwd=ROOT, check=False).returncode
    if done != 0:
        complain(
            "Either something is known against a part (listed above), or a part could not be asked about: then try again with a network."
        )
    return done


def _lock(_arguments: argparse.Namespace) -> int:
    environment.ensure(for_tests=True)
    for name in ("requirements", "requirements-dev"):
        compile_one = [
            str(PYTHON), "-m", "piptools", "compile", "-q", "--generate-hashes", "--no-emit-index-url", "--no-emit-find-links",
            "--strip-extras", "--allow-unsafe", "-o", f"{name}.txt", f"{name}.in",
        ]  # fmt: skip
        if subprocess.run(compile_one, cwd=ROOT, check=False).returncode != 0:
            raise Problem(f"{name}.in could not be compiled; the lines above say why.")
    say("Compiled.")
    return 0
