/** A job's photos: what is kept, and what is on its way, which waits on this device as readings do. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, type Ref } from 'vue';
import { api, type Photo, type Schemas } from '@/api/client';
import type { Listed } from '@/outbox/entry';
import { DEVICE } from '@/support/device';
import { entriesOf, useOutbox } from './useOutbox';
import { usePreferences } from './usePreferences';

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

  /** Keeps caption, place and drawing. Throws a Refusal. */
  async function change(photo: Photo, wanted: Partial<Schemas['PhotoChange']>): Promise<Photo> {
    const { revision = 1, name = '', part = null, step = null, drawn = [] } = photo;
    try {
      return await api.changePhoto(job.value, photo.id, { revision, name, part, step, drawn, ...wanted });
    } finally {
      await again();
    }
  }

  /** Deletes it for good. Throws a Refusal. */
  async function remove(photo: Photo): Promise<void> {
    await api.removePhoto(job.value, photo.id);
    await again();
  }

  return { photos, error, known: computed(() => data.value !== undefined), sending, take, change, remove };
}
