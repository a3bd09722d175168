/** The systems that one may begin with. */
import { useQuery } from '@tanstack/vue-query';
import { api } from '@/api/client';

export function useTemplates() {
  return useQuery({ queryKey: ['templates'], queryFn: api.templates, staleTime: Infinity });
}
