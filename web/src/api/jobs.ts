import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, client, type JobSummary, type JobView, type Reading, type Schemas } from './client'

const jobKey = (id: number) => ['job', id] as const

export function useJobs() {
  return useQuery({ queryKey: ['jobs'], queryFn: () => answered<JobSummary[]>(client.GET('/api/jobs')) })
}

export function useJob(id: number) {
  return useQuery({
    queryKey: jobKey(id),
    queryFn: () => answered<JobView>(client.GET('/api/jobs/{number}', { params: { path: { number: id } } })),
  })
}

export function useNewJob() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schemas['NewJob']) => answered<JobView>(client.POST('/api/jobs', { body })),
    onSuccess: (view) => queries.setQueryData(jobKey(view.id), view),
  })
}

function useJobChange<T>(id: number, send: (input: T) => Promise<JobView>) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: send,
    onSuccess: (view) => {
      queries.setQueryData(jobKey(id), view)
      void queries.invalidateQueries({ queryKey: ['jobs'] })
    },
  })
}

export function useAddReading(id: number) {
  return useJobChange(id, (body: Reading) =>
    answered<JobView>(client.POST('/api/jobs/{number}/readings', { params: { path: { number: id } }, body })),
  )
}

export function useStrike(id: number) {
  return useJobChange(id, ({ place, reason }: { place: number; reason: string }) =>
    answered<JobView>(
      client.POST('/api/jobs/{number}/readings/{place}/strike', {
        params: { path: { number: id, place } },
        body: { reason },
      }),
    ),
  )
}

export function useChangeJob(id: number) {
  return useJobChange(id, (body: Record<string, unknown>) =>
    answered<JobView>(client.PATCH('/api/jobs/{number}', { params: { path: { number: id } }, body: body as never })),
  )
}

export function useWithout(id: number, place: number | null) {
  return useQuery({
    queryKey: ['without', id, place],
    enabled: place !== null,
    gcTime: 0,
    queryFn: () =>
      answered<Schemas['WhatIf']>(
        client.GET('/api/jobs/{number}/without/{place}', { params: { path: { number: id, place: place ?? 0 } } }),
      ),
  })
}
