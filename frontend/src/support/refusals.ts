/** Where the refusals of a sheet belong: to which part of the form, and to which paths. */
import type { Chain, Path } from '@/api/client';

export type Part = 'vehicle' | 'source' | 'between' | 'amplifier' | 'speakers' | 'filters' | 'schools';

const PLACES: Record<Part, RegExp> = {
  vehicle: /^(vehicle|note)/,
  source: /^chain\.sources|paths\.\d+\.(output|also|source)/,
  between: /^chain\.processors|paths\.\d+\.(equaliser|channel_gain_db|through|left|right)/,
  amplifier: /^chain\.amplifiers|paths\.\d+\.(mode|boost|amplifier|section|input|leads)/,
  speakers: /^chain\.loads|paths\.\d+\.(name|load|group|inverted|delay_ms)/,
  filters: /paths\.\d+\.filter/,
  schools: /^choices/,
};

/** The part of the form that shows the field at `place`. */
export function partOf(place: string): Part | undefined {
  return (Object.keys(PLACES) as Part[]).find((part) => PLACES[part].test(place));
}

/** Which paths, by their number, the field at `place` belongs to; all of them when it belongs to the whole sheet. */
export function pathsOf(chain: Chain, place: string): number[] {
  const [, kind, number] = /^chain\.(paths|sources|processors|amplifiers|loads)\.(\d+)/.exec(place) ?? [];
  const uses: Record<string, (path: Path, index: number) => boolean> = {
    paths: (_, index) => index === Number(number),
    sources: (path) => path.source === chain.sources[Number(number)]?.id,
    processors: (path) => path.through.includes(chain.processors[Number(number)]?.id ?? ''),
    amplifiers: (path) => path.amplifier === chain.amplifiers[Number(number)]?.id,
    loads: (path) => path.load === chain.loads[Number(number)]?.id,
  };
  const used = uses[kind ?? ''] ?? (() => true);
  return chain.paths.flatMap((path, index) => (used(path, index) ? [index] : []));
}
