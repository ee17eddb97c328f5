"""The lab's own certificate: made once, for its address, its key for nobody else; a phone that trusts it is served."""

from __future__ import annotations

import ssl
import threading
from argparse import Namespace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from cryptography import x509

from orderly_bench.cli import certificate
from orderly_bench.machine import commands, ports, serve
from orderly_bench.machine.problem import Problem

NOW = datetime.now(UTC)


def asked(folder: Path, **more: object) -> Namespace:
    return Namespace(folder=str(folder), host="127.0.0.1", port="8790", cert=None, key=None, **more)


def test_it_is_made_once_and_printed_with_its_fingerprint_and_a_code(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    folder = tmp_path / "tls"
    assert certificate.run(asked(folder)) == 0
    first, said = (folder / "cert.pem").read_bytes(), capsys.readouterr().out
    assert "https://127.0.0.1:8790" in said and said.count(":") > 31 and "█" in said
    assert (folder / "key.pem").stat().st_mode & 0o077 == 0 and folder.stat().st_mode & 0o077 == 0
    assert certificate.run(asked(folder)) == 0 and (folder / "cert.pem").read_bytes() == first


def test_the_authority_stays_when_the_address_changes(tmp_path: Path) -> None:
    certificate.make(tmp_path, "10.0.0.7", NOW)
    first, leaf = (tmp_path / "authority.pem").read_bytes(), (tmp_path / "cert.pem").read_bytes()
    certificate.make(tmp_path, "10.0.0.8", NOW)
    assert (tmp_path / "authority.pem").read_bytes() == first and (tmp_path / "cert.pem").read_bytes() != leaf
    assert all((tmp_path / name).stat().st_mode & 0o077 == 0 for name in ("authority-key.pem", "key.pem"))
    made = x509.load_pem_x509_certificate((tmp_path / "cert.pem").read_bytes())
    assert not made.extensions.get_extension_for_class(x509.BasicConstraints).value.ca
    names = made.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    assert set(names.get_values_for_type(x509.DNSName)) == set(certificate.names_of("10.0.0.8")) - {"10.0.0.8"}
    later = NOW + timedelta(days=3650)
    certificate.make(tmp_path, "10.0.0.8", later)
    assert (tmp_path / "authority.pem").read_bytes() != first, "one that would end before its certificate is made anew"
    assert certificate.fits(tmp_path / "cert.pem", "10.0.0.8", later)


def test_another_address_and_a_nearly_ended_one_are_made_anew(tmp_path: Path) -> None:
    certificate.make(tmp_path, "10.0.0.7", NOW)
    cert = tmp_path / "cert.pem"
    assert certificate.fits(cert, "10.0.0.7", NOW)
    assert not certificate.fits(cert, "10.0.0.8", NOW) and not certificate.fits(cert, "bench.lab", NOW)
    assert not certificate.fits(cert, "10.0.0.7", NOW + timedelta(days=370))
    cert.write_text("no certificate")
    assert not certificate.fits(cert, "10.0.0.7", NOW) and not certificate.fits(tmp_path / "none.pem", "10.0.0.7", NOW)


def test_who_trusts_it_is_served_and_who_does_not_is_warned(tmp_path: Path) -> None:
    certificate.make(tmp_path, "127.0.0.1", NOW)
    server = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    server.load_cert_chain(tmp_path / "cert.pem", tmp_path / "key.pem")

    def shake(client: ssl.SSLContext) -> None:
        near, far = __import__("socket").socketpair()
        thread = threading.Thread(target=_answer, args=(server, far))
        thread.start()
        try:
            with client.wrap_socket(near, server_hostname="127.0.0.1") as shaken:
                assert shaken.version() in ("TLSv1.2", "TLSv1.3")
        finally:
            near.close()
            thread.join(5)

    shake(ssl.create_default_context(cafile=str(tmp_path / "authority.pem")))
    with pytest.raises(ssl.SSLCertVerificationError):
        shake(ssl.create_default_context())


def _answer(context: ssl.SSLContext, end) -> None:
    try:
        with context.wrap_socket(end, server_side=True) as shaken:
            shaken.recv(1)
    except OSError:
        end.close()


def test_given_ones_are_used_and_unreadable_ones_named(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    certificate.make(tmp_path, "bench.lab", NOW)
    given = Namespace(
        folder=str(tmp_path / "x"),
        host="bench.lab",
        port="1",
        cert=str(tmp_path / "cert.pem"),
        key=str(tmp_path / "key.pem"),
    )
    assert certificate.run(given) == 0 and not (tmp_path / "x").exists()
    (tmp_path / "key.pem").write_text("torn")
    assert certificate.run(given) == 1 and "can't be read" in capsys.readouterr().err


def test_words_that_do_not_go_together_are_refused(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert commands.main(["run", "--cert", "a.pem"]) == 1 and "go with --lan" in capsys.readouterr().err
    with pytest.raises(Problem, match="go together"):
        serve.Lan("127.0.0.1", "cert.pem", None)
    with pytest.raises(Problem, match="There is no file"):
        serve.Lan("127.0.0.1", str(tmp_path / "a.pem"), str(tmp_path / "b.pem"))
    assert serve.Lan("127.0.0.1").files[0].endswith("tls/cert.pem")
    assert ports.is_free(ports.any_free()) and not ports.answers(ports.any_free())
