"""
The door: links that work once, devices that are known, people who sign in on them, sessions that end.

What is kept of links, devices and sessions are digests; what a person carries opens nothing once it is ended here.
"""
