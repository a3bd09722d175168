/** What this device is called where it says nothing better: what it is, as its browser tells. */
const KINDS: [RegExp, string][] = [
  [/iPad|Tablet|Android(?!.*Mobile)/, 'tablet'],
  [/iPhone|Mobile/, 'phone'],
];

export function deviceName(agent = navigator.userAgent): string {
  return KINDS.find(([pattern]) => pattern.test(agent))?.[1] ?? 'computer';
}
