import { answered, client, type Schemas } from './client'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

/** A body that is the picture itself. */
export const asPicture = (picture: Blob) => ({
  body: picture as unknown as string,
  bodySerializer: (body: unknown) => body as Blob,
  headers: { 'Content-Type': picture.type || 'image/jpeg' },
})

export function useWorkshop() {
  return useQuery({
    queryKey: ['workshop'],
    queryFn: () => answered<Schemas['WorkshopView']>(client.GET('/api/workshop')),
  })
}

export function useSetWorkshop() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schemas['Workshop']) =>
      answered<Schemas['WorkshopView']>(client.PUT('/api/workshop', { body }), 'writing'),
    onSuccess: (view) => {
      queries.setQueryData(['workshop'], view)
      void queries.invalidateQueries({ predicate: (query) => query.queryKey[0] !== 'workshop' })
    },
  })
}

/** The mark on the papers; none takes it away. */
export function useSetMark() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (picture: Blob | null) =>
      answered<Schemas['WorkshopView']>(
        client.PUT('/api/workshop/mark', asPicture(picture ?? new Blob([], { type: 'image/png' }))),
        'writing',
      ),
    onSuccess: (view) => queries.setQueryData(['workshop'], view),
  })
}
