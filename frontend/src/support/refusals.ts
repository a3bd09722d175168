/** Where the refusals of a sheet belong: to which part of the form, and to which paths. */
import type { Chain, Path } from '@/api/client';

export type Part = 'vehicle' | 'source' | 'between' | 'amplifier' | 'speakers' | 'filters' | 'methods';

const PLACES: Record<Part, RegExp> = {
  vehicle: /^(vehicle|note)/,
  source: /^chain\.sources|paths\.\d+\.(output|also|source)/,
  between: /^chain\.processors|paths\.\d+\.(equaliser|channel_gain_db|through|left|right)/,
  amplifier: /^chain\.amplifiers|paths\.\d+\.(mode|boost|amplifier|section|input|leads)/,
  speakers: /^chain\.loads|paths\.\d+\.(name|load|group|inverted|delay_ms|distance_cm)/,
  filters: /paths\.\d+\.filter/,
  methods: /^choices/,
};

/** The parts by the lists that a place within the system begins with, parts by their ids: `loads.front.power_w`. */
const LISTS: Record<string, Part> = {
  sources: 'source',
  processors: 'between',
  amplifiers: 'amplifier',
  loads: 'speakers',
};
const OF_PATHS: Record<string, Part> = { filters: 'filters', through: 'between', boost: 'amplifier' };

export const isPart = (text: string): text is Part => text in PLACES;

/** The part of the form that shows a value named by its place within the system. */
export function partAt(place: string): Part | undefined {
  const [list = '', , field = ''] = place.split('.');
  return list === 'paths' ? OF_PATHS[field] : LISTS[list];
}

/** Which paths, by their number, such a value belongs to. */
export function pathsAt(chain: Chain, place: string): number[] {
  const [list = '', id = '', field = '', within = ''] = place.split('.');
  const uses: Record<string, (path: Path) => boolean> = {
    paths: (path) => path.id === id,
    sources: (path) => path.source === id && (field !== 'outputs' || path.output === within),
    processors: (path) => path.through.includes(id),
    amplifiers: (path) => path.amplifier === id && (field !== 'sections' || path.section === within),
    loads: (path) => path.load === id,
  };
  const used = uses[list];
  return used ? chain.paths.flatMap((path, index) => (used(path) ? [index] : [])) : [];
}

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
