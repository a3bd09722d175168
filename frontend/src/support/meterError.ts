/** The known error of a person’s meter: volts are corrected as they are saved, and the display is kept beside them. */

/** A meter that is further off is no meter. */
export const LARGEST_ERROR_PERCENT = 15;

const isUsable = (percent: number) => percent !== 0 && Math.abs(percent) <= LARGEST_ERROR_PERCENT;

/** That typed volts are corrected, where they are. */
export const errorInWords = (percent: number): string =>
  isUsable(percent)
    ? `Your meter shows ${Math.abs(percent)} % too ${percent > 0 ? 'much' : 'little'}: type its display, it is corrected.`
    : '';

/** What is saved of volts that were typed: corrected, with the display where that differs. */
export function corrected(value: number, errorPercent: number): { value: number; displayed: number | null } {
  return isUsable(errorPercent)
    ? { value: value / (1 + errorPercent / 100), displayed: value }
    : { value, displayed: null };
}
