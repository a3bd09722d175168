/** The decimal mark that this device shows: numbers and sentences come with a point and change where they are shown. */
import { useLocalStorage } from '@vueuse/core';
import { toDisplayString } from 'vue';

export type DecimalMark = '.' | ',';

export const decimalMark = useLocalStorage<DecimalMark>('rook.decimal-mark', '.');

/** A number with one point, alone or in a sentence; addresses, versions and names of files hold others. */
const DECIMAL = /(?<![\w.])(\d+)\.(\d+)(?!\.?\w)/g;

export const withMark = (text: string) => (decimalMark.value === '.' ? text : text.replace(DECIMAL, '$1,$2'));

/** Every `{{ }}` of the templates comes through here, by `shownMarks` in vite.config.ts. @public */
export const shown = (value: unknown) => withMark(toDisplayString(value));
