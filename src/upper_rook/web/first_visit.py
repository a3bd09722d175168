"""The page for a device that asks in plain HTTP: why it will warn of the certificate, and how it comes to trust it."""

from html import escape
from http import HTTPStatus

from upper_rook.web.settings import Settings

AUTHORITY = "/authority.crt"
_SYSTEMS = (
    (
        "Phones and tablets with an “install a certificate” page",
        "in the settings under security, encryption: choose CA certificate, then the file",
    ),
    (
        "Phones and tablets that offer it as a profile",
        "install the profile in the settings, then switch on full trust where trusted certificates are listed",
    ),
    ("Computers", "open the file and put it among the trusted root authorities, for this user alone"),
    ("A browser with a list of its own", "its settings, certificates, authorities: import it to identify websites"),
)
_STYLE = (
    "body{font:1.15rem/1.5 sans-serif;max-width:40rem;margin:0 auto;padding:1rem;color:#1b2340;background:#fbf8f1}"
    "code{font-size:1rem;overflow-wrap:anywhere;display:block;padding:.6rem;background:#fff;border:1px solid #c9c2b2}"
    "a{color:#1d5b3a;font-weight:650}a.go{display:inline-block;padding:.7rem 1.2rem;background:#1d5b3a;color:#fff;"
    "text-decoration:none;border-radius:4px}li{margin:.4rem 0}"
    "@media(prefers-color-scheme:dark){body{color:#efe9da;background:#161b2e}"
    "code{background:#20263d;border-color:#444c66}"
    "a{color:#8fd3a8}a.go{background:#8fd3a8;color:#161b2e}}"
)
_HEADERS = (
    "Connection: close",
    "Cache-Control: no-store",
    "X-Content-Type-Options: nosniff",
    "Referrer-Policy: no-referrer",
    "Content-Security-Policy: default-src 'none'; style-src 'unsafe-inline'; base-uri 'none'; frame-ancestors 'none'",
)


def answer(settings: Settings, path: str, host: str) -> bytes:
    """
    The whole HTTP answer to a plain request for `path`, sent to `host`: the page, or the authority's certificate.

    Where the certificate isn't the workshop's own no device has to be taught anything, and it is sent on.
    """
    https = f"https://{_known(settings, host)}"
    if settings.authority is None or settings.fingerprint is None:
        return _http(HTTPStatus.PERMANENT_REDIRECT, "text/plain; charset=utf-8", b"", f"Location: {https}/")
    if path == AUTHORITY:
        name = 'Content-Disposition: attachment; filename="upper-rook-authority.crt"'
        return _http(HTTPStatus.OK, "application/x-x509-ca-cert", settings.authority.read_bytes(), name)
    return _http(HTTPStatus.OK, "text/html; charset=utf-8", page(https, settings.fingerprint).encode())


def page(https: str, fingerprint: str) -> str:
    """The page, with the app's address and the fingerprint that the machine printed."""
    systems = "".join(f"<li><strong>{escape(system)}:</strong> {escape(how)}.</li>" for system, how in _SYSTEMS)
    return (
        '<!doctype html><html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width, initial-scale=1">'
        f"<title>Upper Rook: before the first visit</title><style>{_STYLE}</style></head><body><main>"
        "<h1>Before the first visit</h1>"
        "<p>The app is reached over an encrypted connection. The workshop signs its own certificate, so this device "
        "warns of it until it trusts the workshop once. Without that the app works, but microphone, wake lock and "
        "offline work may stay off.</p><ol>"
        f'<li><a href="{AUTHORITY}">Save the workshop’s certificate</a> on this device. It can sign for this machine '
        "and private networks only.</li>"
        "<li>Have the device show the certificate’s SHA-256 fingerprint. Go on only if it is the one that the machine "
        "printed when the app was started; this page can’t vouch for itself. It should be:"
        f"<code>{escape(fingerprint)}</code></li>"
        f"<li>Trust it:<ul>{systems}</ul></li>"
        "<li>Close the browser and open it again.</li></ol>"
        f'<p><a class="go" href="{escape(https)}/">Open Upper Rook</a></p>'
        "<p>Came by a link or a code? Scan or open it again afterwards: it works once, and was not used here.</p>"
        "</main></body></html>"
    )


def _known(settings: Settings, host: str) -> str:
    """The host as it was asked where that is one of the app's names, else the address that most devices reach."""
    if host.rpartition(":")[0] in settings.hosts and host.rpartition(":")[2] == str(settings.port):
        return host
    return settings.addresses[0].removeprefix("https://") if settings.addresses else f"localhost:{settings.port}"


def _http(status: HTTPStatus, kind: str, body: bytes, *more: str) -> bytes:
    head = (
        f"HTTP/1.1 {status.value} {status.phrase}",
        f"Content-Type: {kind}",
        f"Content-Length: {len(body)}",
        *_HEADERS,
        *more,
    )
    return "\r\n".join(head).encode("latin-1") + b"\r\n\r\n" + body
