/** Who works in the workshop, and on which devices. */
import { useQuery } from '@tanstack/vue-query';
import type { MaybeRefOrGetter } from 'vue';
import { api } from '@/api/client';

export const usePeople = (enabled: MaybeRefOrGetter<boolean> = true) =>
  useQuery({ queryKey: ['people'], queryFn: api.people, enabled });

export const useDevices = (enabled: MaybeRefOrGetter<boolean> = true) =>
  useQuery({ queryKey: ['devices'], queryFn: api.devices, enabled });
