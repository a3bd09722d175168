"""
The door: links that work once, devices that are known, people who sign in on them, sessions that end.

Only digests of links, devices and sessions are kept; a token opens nothing once it is ended here.
"""
