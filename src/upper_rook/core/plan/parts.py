"""Which part of a path's system a finding is put right in."""

from typing import Literal

Part = Literal["source", "between", "amplifier", "speakers", "filters", "methods"]

_KINDS: dict[Part, str] = {
    "source": "ways trims source-far-off no-offset offset not-flat level-lifted forgets tap-band taps-gap taps-apart "
    "source-unknown joined half-of-music no-ground-side volume-too-high source-weak source-strong unlikely sides-apart",
    "between": "trim-too-high output-over noise-input no-processor input-over converter-weak tone-misses-peak "
    "side-inverted",
    "amplifier": "routing-takes-over supply ratings-contradict rating-estimated rating-distorted rating-corrected "
    "one-lead noise no-signal no-clip-lamp level-knob leads-unused hazardous-live boost amplifier-weak "
    "amplifier-strong amplifier-input-over idle",
    "speakers": "unlike-drivers load-too-low load-too-low-above impedance-dips behind-capacitor belong-together",
    "filters": "tweeter subsonic-low subsonic-high stays-active starved stacked overlap nothing-left no-subsonic "
    "no-low-pass no-high-pass near-passive idle-filter gap cancel-beside cancel bump no-bass no-treble above-range "
    "below-range",
    "methods": "soft-clip dummy-load allowance",
}
PARTS: dict[str, Part] = {kind: part for part, kinds in _KINDS.items() for kind in kinds.split()}
"""The part by the kind of a finding."""
