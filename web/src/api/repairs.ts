import { answered, client, type JobView, type Schemas } from './client'
import { jobKey, once, useJobChange } from './jobs'
import { asPicture } from './workshop'
import { useMutation, useQueryClient } from '@tanstack/react-query'

export function useTick(id: number) {
  const queries = useQueryClient()
  const ticked = (next: (now: JobView['ticks']) => JobView['ticks']) =>
    queries.setQueryData<JobView>(jobKey(id), (view) => view && { ...view, ticks: next(view.ticks) })
  return useMutation({
    scope: { id: `job-${id}` },
    mutationFn: ({ step, body }: { step: string; body: Schemas['Tick'] }) =>
      answered<Schemas['Ticked'][]>(
        client.POST('/api/jobs/{number}/steps/{step}', { params: { path: { number: id, step } }, body }),
        'writing',
      ),
    // the tick is seen at once, and no answer that was on its way before takes it back; what the server says stands in the end
    onMutate: async ({ step, body }) => {
      await queries.cancelQueries({ queryKey: jobKey(id) })
      ticked((now) => [
        ...now.filter((item) => item.step !== step),
        {
          photos: [],
          by: '',
          at: '',
          ...now.find((item) => item.step === step),
          step,
          done: body.done,
          note: body.note ?? '',
        },
      ])
    },
    onSuccess: (ticks) => ticked(() => ticks),
    onError: () => queries.invalidateQueries({ queryKey: jobKey(id) }),
  })
}

export function useAddPhoto(id: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: ({ step, photo }: { step: string; photo: File }) =>
      once(`photo-${id}`, [step, photo.name, photo.size, photo.lastModified], ({ params: { header } }) =>
        answered<Schemas['Ticked'][]>(
          client.POST('/api/jobs/{number}/steps/{step}/photos', {
            params: { path: { number: id, step }, header },
            ...asPicture(photo),
          }),
          'writing',
        ),
      ),
    onMutate: () => queries.cancelQueries({ queryKey: jobKey(id) }),
    onSuccess: (ticks) => queries.setQueryData<JobView>(jobKey(id), (view) => view && { ...view, ticks }),
  })
}

/** A photo of a reading: of a screen, of a plug. */
export function useAddReadingPhoto(id: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: ({ place, photo }: { place: number; photo: File }) =>
      once(`photo-${id}`, [place, photo.name, photo.size, photo.lastModified], ({ params: { header } }) =>
        answered<number[][]>(
          client.POST('/api/jobs/{number}/readings/{place}/photos', {
            params: { path: { number: id, place }, header },
            ...asPicture(photo),
          }),
          'writing',
        ),
      ),
    onMutate: () => queries.cancelQueries({ queryKey: jobKey(id) }),
    onSuccess: (photos) => queries.setQueryData<JobView>(jobKey(id), (view) => view && { ...view, photos }),
  })
}

export function useCorrectTime(id: number) {
  return useJobChange(id, (body: Schemas['Minutes']) =>
    answered<JobView>(client.PUT('/api/jobs/{number}/time', { params: { path: { number: id } }, body }), 'writing'),
  )
}

export function useCloseJob(id: number) {
  return useJobChange(id, (reason: string) =>
    answered<JobView>(
      client.POST('/api/jobs/{number}/close', { params: { path: { number: id } }, body: { reason } }),
      'writing',
    ),
  )
}
