const FAR_DB = 24;
const LOW_HZ = 260;
const HIGH_HZ = 1040;

/** The pitch that says how far a value is below its target: two octaves over 24 dB, highest on the target. */
export function nearness(db: number): number {
  const closeness = 1 - Math.min(1, Math.abs(db) / FAR_DB);
  return LOW_HZ * (HIGH_HZ / LOW_HZ) ** closeness;
}
