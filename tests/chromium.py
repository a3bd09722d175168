"""Debian's Chromium without its windows, which starts and runs with half of the work of the whole browser."""

CHROMIUM = "/usr/bin/chromium-headless-shell"
QUIET = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
)
