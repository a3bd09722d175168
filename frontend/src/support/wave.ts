/** A wave as an SVG path on a given field, volts up. */
export function wavePath(
  times: number[],
  volts: number[],
  fullV: number,
  width: number,
  height: number,
): string {
  const last = times.at(-1) ?? 1;
  return volts
    .map((value, index) => {
      const x = ((times[index] ?? 0) / last) * width;
      const y = height / 2 - (value / fullV) * (height / 2);
      return `${index ? 'L' : 'M'}${x.toFixed(2)} ${y.toFixed(2)}`;
    })
    .join('');
}
