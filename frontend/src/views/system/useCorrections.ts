/** What the server refused of a sheet, by the part and the paths that it belongs to. */
import { computed, type Ref } from 'vue';
import type { Chain } from '@/api/client';
import { type Part, partOf, pathsOf } from '@/support/refusals';

export function useCorrections(chain: Ref<Chain | undefined>, problems: Ref<Record<string, string>>) {
  const refusals = computed(() =>
    Object.keys(problems.value).map((place) => ({
      place,
      part: partOf(place),
      paths: chain.value ? pathsOf(chain.value, place) : [],
    })),
  );
  const wrongPart = (path: number, part: Part) =>
    refusals.value.some((refusal) => refusal.part === part && refusal.paths.includes(path));
  /** The paths to open for correcting, where it isn't the sheet as a whole. */
  const wrongPaths = computed(() => {
    const all = chain.value?.paths.length ?? 0;
    return new Set(refusals.value.flatMap((refusal) => (refusal.paths.length < all ? refusal.paths : [])));
  });
  /** A refusal that no field of a form shows. */
  const loose = computed(() => {
    const found = refusals.value.find((refusal) => !refusal.part || !refusal.paths.length);
    return found ? problems.value[found.place] : '';
  });
  return { wrongPart, wrongPaths, loose };
}
