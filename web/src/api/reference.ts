import { answered, client, type Schemas } from './client'
import { useQuery } from '@tanstack/react-query'

export function usePresets() {
  return useQuery({
    queryKey: ['presets'],
    staleTime: Infinity,
    queryFn: () => answered<Schemas['Preset'][]>(client.GET('/api/presets')),
  })
}

export function useFamilies() {
  return useQuery({
    queryKey: ['families'],
    staleTime: Infinity,
    queryFn: () => answered<Schemas['KnownFamily'][]>(client.GET('/api/families')),
  })
}

export function useVehicles() {
  return useQuery({
    queryKey: ['vehicles'],
    queryFn: () => answered<Schemas['KnownVehicle'][]>(client.GET('/api/vehicles')),
  })
}

/** What typed codes say, before a job is started; nothing while they cannot be read yet. */
export function useDecoded(text: string) {
  return useQuery({
    queryKey: ['decoded', text], enabled: text.length >= 5, retry: false,
    placeholderData: (before: Schemas['Decoded'][] | undefined) => before,
    queryFn: () => answered<Schemas['Decoded'][]>(client.GET('/api/codes', { params: { query: { text } } })),
  }) // prettier-ignore
}

export function useCodeBook(wanted: { words: string; bank: string; position: string; circuit: string }) {
  const query = Object.fromEntries(Object.entries(wanted).filter(([, value]) => value !== ''))
  return useQuery({
    queryKey: ['codebook', query],
    placeholderData: (before: Schemas['Decoded'][] | undefined) => before,
    queryFn: () => answered<Schemas['Decoded'][]>(client.GET('/api/codebook', { params: { query } })),
  })
}
