/** Records that wait on this device since an earlier version of the app, in the form of this one. */

type Older = { kind?: string; body?: { voltage_v?: number; volume?: number } & Record<string, unknown> };

/** A waiting reading told as volts and a volume number, as a value with its circumstances; the rest as it is. */
export function broughtUp<Waiting>(waiting: unknown): Waiting {
  const { body } = waiting as Older;
  if (body?.voltage_v === undefined) return waiting as Waiting;
  const { voltage_v: value, volume, ...kept } = body;
  return {
    ...(waiting as object),
    body: { ...kept, quantity: 'ac_volts', value, circumstances: { volume } },
  } as Waiting;
}
