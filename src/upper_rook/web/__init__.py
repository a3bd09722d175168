"""FastAPI: one router per screen, a live channel, problem+json errors."""
