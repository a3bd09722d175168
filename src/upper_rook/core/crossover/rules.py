"""Numbers of the trade that corners are found and judged by (common practice, no source)."""

NEAR = 1.06
"""A corner this near to an edge, or to another, is at it."""
BELOW_TUNING = 0.85
"""Where a subsonic filter stands against its box's tuning."""
LOWEST_SUBSONIC = 0.6
"""Below this part of the tuning a subsonic filter lets the cone go where the port doesn't hold it."""
SUB_TOP_HZ = 150.0
"""As far up as a sub is used when its data sheet doesn't say."""
