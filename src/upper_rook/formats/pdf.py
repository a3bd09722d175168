"""HTML of ours as PDF: tagged for readers, fonts embedded (PDF/UA-1), nothing fetched."""

from upper_rook.core.common.errors import BadInput


def pdf(html: str) -> bytes:
    """The pages of a document, which names nothing outside itself. Raises BadInput where this machine can't draw it."""
    try:
        # Imported here: it brings half a second and libraries of the system.
        from weasyprint import HTML
        from weasyprint.urls import URLFetcher
    except OSError as error:
        raise BadInput(f"PDF can’t be drawn on this machine ({error}): take HTML, or install libpango.") from None
    fetcher = URLFetcher(allowed_protocols=("data",), allow_redirects=False)
    return bytes(HTML(string=html, url_fetcher=fetcher).write_pdf(pdf_variant="pdf/ua-1", pdf_tags=True))
