/** A job's photos: what is kept, and what is on its way, which waits on this device as readings do. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, type Ref } from 'vue';
import { api, type Photo, Refusal, type Schemas } from '@/api/client';
import type { Listed } from '@/outbox/entry';
import { DEVICE } from '@/support/device';
import { entriesOf, useOutbox } from './useOutbox';
import { usePreferences } from './usePreferences';

const TRIES = 3;

/** What a photo shows: a part by its place in the system, a step by its key. */
export type Shown = { part?: string; step?: string };

/** A photo on its way, or refused. */
export type SendingPhoto = Listed & { kind: 'photo' };

export function usePhotos(job: Ref<string>) {
  const outbox = useOutbox(() => job.value);
  const preferences = usePreferences();
  const queries = useQueryClient();
  const { data, error } = useQuery({
    queryKey: computed(() => ['photos', job.value]),
    queryFn: () => api.photos(job.value),
  });
  const photos = computed(() => data.value ?? []);
  const sending = computed(() =>
    entriesOf(job.value).filter((entry): entry is SendingPhoto => entry.kind === 'photo' && !entry.sent),
  );

  /** Keeps a photo on this device until the server has it; `where` names the place in lists. */
  function take(file: Blob, shows: Shown, where: string): void {
    const told = {
      id: crypto.randomUUID(),
      name: '',
      ...shows,
      taken_at: new Date().toISOString(),
      by: preferences.value.name,
      device: DEVICE,
    };
    void outbox.putFile({ kind: 'photo', told }, file, { vehicle: '', step: where });
  }

  const again = () => queries.invalidateQueries({ queryKey: ['photos', job.value] });

  let last: Promise<unknown> = Promise.resolve();
  /**
   * Changes caption, place or drawing, each change on what the one before it made. What was changed elsewhere in that
   * very moment is looked at again, and the change repeated on it. Throws a Refusal.
   */
  function change(id: string, edit: (photo: Photo) => Partial<Schemas['PhotoChange']>): Promise<void> {
    const next = last.then(() => changeNow(id, edit, TRIES));
    last = next.catch(() => undefined);
    return next;
  }
  async function changeNow(id: string, edit: Parameters<typeof change>[1], tries: number): Promise<void> {
    const photo = photos.value.find((photo) => photo.id === id);
    if (!photo) throw new Refusal(404, { status: 404, detail: 'Somebody deleted this photo.' });
    const { revision = 1, name = '', part = null, step = null, drawn = [] } = photo;
    const wanted = { revision, name, part, step, drawn, ...edit(photo) };
    try {
      await api.changePhoto(job.value, id, wanted);
    } catch (problem) {
      if (!(problem instanceof Refusal) || problem.status !== 409 || tries <= 1) throw problem;
      await again();
      return changeNow(id, edit, tries - 1);
    }
    await again();
  }

  /** Deletes it for good. Throws a Refusal. */
  async function remove(photo: Photo): Promise<void> {
    await api.removePhoto(job.value, photo.id);
    await again();
  }

  return { photos, error, known: computed(() => data.value !== undefined), sending, take, change, remove };
}
