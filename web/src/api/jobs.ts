import { clash } from '../shared/clash'
import { Refused, answered, client, saidNo, type JobView, type Schemas } from './client'
import { answeredAt, keyFor } from './keys'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

export const jobKey = (id: number) => ['job', id] as const

export type JobsAsked = {
  which: 'all' | 'new' | 'testing' | 'decided' | 'mended' | 'over' | 'archived'
  words: string
  page: number
  size: number
  order: 'newest' | 'oldest' | 'vehicle'
}

/** A page of the jobs; the one before stays in view until it is there. */
export function useJobs(asked: JobsAsked) {
  return useQuery({
    queryKey: ['jobs', asked],
    placeholderData: (before: Schemas['JobPage'] | undefined) => before,
    queryFn: () => answered<Schemas['JobPage']>(client.GET('/api/jobs', { params: { query: asked } })),
  })
}

export function useJob(id: number) {
  return useQuery({
    queryKey: jobKey(id),
    queryFn: () => oneJob(id),
    gcTime: 24 * 3600_000,
  })
}

export const oneJob = (id: number) =>
  answered<JobView>(client.GET('/api/jobs/{number}', { params: { path: { number: id } } }))

export function useNewJob() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schemas['NewJob']) =>
      once('new-job', body, (keyed) => answered<JobView>(client.POST('/api/jobs', { body, ...keyed }), 'writing')),
    onSuccess: (view) => queries.setQueryData(jobKey(view.id), view),
  })
}

/** The job of another sensor of the same vehicle, with the readings that speak of it; the same one when it is asked for again. */
export function useOpenOther(id: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (address: string) =>
      answered<JobView>(
        client.POST('/api/jobs/{number}/others/{address}', { params: { path: { number: id, address } } }),
        'writing',
      ),
    onSuccess: (view) => queries.setQueryData(jobKey(view.id), view),
  })
}

export function useArchive() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: ({ id, archived }: { id: number; archived: boolean }) =>
      answered<Schemas['Archive']>(
        client.POST('/api/jobs/{number}/archive', { params: { path: { number: id } }, body: { archived } }),
        'writing',
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['jobs'] }),
  })
}

export function useOpenCase() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: async (file: File) => {
      if (/\.zip$/i.test(file.name)) {
        return once('import', [file.name, file.size, file.lastModified], (keyed) =>
          answered<JobView>(client.POST('/api/jobs/import-zip', { ...keyed, ...asFile(file) }), 'writing'),
        )
      }
      const body = plainCase(await file.text(), file.name)
      return once('import', body, (keyed) =>
        answered<JobView>(client.POST('/api/jobs/import', { body, ...keyed }), 'writing'),
      )
    },
    onSuccess: (view) => {
      queries.setQueryData(jobKey(view.id), view)
      void queries.invalidateQueries({ queryKey: ['jobs'] })
    },
  })
}

/** A request whose body is a file as it is. */
const asFile = (file: Blob) => ({
  body: file as unknown as string,
  bodySerializer: (body: unknown) => body as Blob,
  headers: { 'Content-Type': 'application/octet-stream' },
})

/** Send what adds something, with a key that it keeps until it is answered. */
export async function once<T>(
  place: string,
  body: unknown,
  send: (keyed: { params: { header: { 'Idempotency-Key': string } } }) => Promise<T>,
): Promise<T> {
  try {
    const answer = await send({ params: { header: { 'Idempotency-Key': keyFor(place, body) } } })
    answeredAt(place)
    return answer
  } catch (error) {
    if (saidNo(error)) answeredAt(place)
    throw error
  }
}

function plainCase(text: string, name: string): Record<string, unknown> {
  try {
    const plain: unknown = JSON.parse(text)
    if (plain !== null && typeof plain === 'object' && !Array.isArray(plain)) return plain as Record<string, unknown>
  } catch {
    // said below
  }
  throw new Refused({ message: `${name} is no case file: expected one JSON document.`, findings: [] })
}

/** onView runs in the same turn as the new view appears, so that nothing typed in between is lost. */
export function useJobChange<T>(id: number, send: (input: T) => Promise<JobView>, onView?: (view: JobView) => void) {
  const queries = useQueryClient()
  return useMutation({
    // one after another, so that an older answer never comes last
    scope: { id: `job-${id}` },
    mutationFn: send,
    onSuccess: (view) => {
      queries.setQueryData(jobKey(id), view)
      onView?.(view)
      void queries.invalidateQueries({ queryKey: ['jobs'] })
    },
  })
}

/** How many entries the job has by now: more than shown means that a colleague has added something. */
export function useStand(view: JobView) {
  return useQuery({
    queryKey: ['stand', view.id],
    enabled: !view.behind,
    refetchInterval: 1500,
    retry: false,
    queryFn: () =>
      answered<Schemas['Stand']>(client.GET('/api/jobs/{number}/stand', { params: { path: { number: view.id } } })),
  }).data?.entries
}

type Change = Schemas['CaseChange']

/**
 * What is given is merged into the job, field by field; null takes a field away. A list is replaced: one that depends on
 * the present one is given as a function of the job, asked when earlier changes are through.
 */
export function useChangeJob(id: number, onView?: (view: JobView) => void) {
  const queries = useQueryClient()
  const bodyOf = (change: Change | ((view: JobView) => Change)) => {
    const view = queries.getQueryData<JobView>(jobKey(id))
    return typeof change !== 'function' ? change : view ? change(view) : {}
  }
  const changed = async (body: Change) => {
    const entries = queries.getQueryData<JobView>(jobKey(id))?.entries
    const header = entries === undefined ? {} : { header: { 'If-Match': `"${entries}"` } }
    try {
      return await answered<JobView>(
        client.PATCH('/api/jobs/{number}', { params: { path: { number: id }, ...header }, body }),
        'writing',
      )
    } catch (error) {
      if (error instanceof Refused && error.status === 412) await clashed(body, error)
      throw error
    }
  }
  const clashed = async (body: Change, { problem }: Refused) => {
    await queries.refetchQueries({ queryKey: jobKey(id) })
    clash.tell({
      job: id,
      change: body,
      fields: (problem.findings ?? []).map((finding) => finding.field),
      by: problem.by ?? '',
    })
  }
  return useJobChange(id, (change: Change | ((view: JobView) => Change)) => changed(bodyOf(change)), onView)
}
