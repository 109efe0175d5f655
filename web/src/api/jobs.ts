import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, client, Refused, saidNo, type JobView, type Reading, type Schemas, type Taken } from './client'
import { clash } from '../shared/clash'
import { put } from '../shared/outbox'
import { who } from '../people/who'
import type { Here } from './people'
import { send } from './sending'
import { answeredAt, keyFor } from './keys'

const jobKey = (id: number) => ['job', id] as const

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

const oneJob = (id: number) => answered<JobView>(client.GET('/api/jobs/{number}', { params: { path: { number: id } } }))

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

/** Send what adds something, with a key that it keeps until it is answered. */
async function once<T>(
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
function useJobChange<T>(id: number, send: (input: T) => Promise<JobView>, onView?: (view: JobView) => void) {
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

/** A reading taken: its judgement is shown at once (onTaken), and what follows from it when that is worked out (onView). */
export function useAddReading(id: number, onTaken: (taken: Taken) => void, onView: (view: JobView) => void) {
  const queries = useQueryClient()
  const shown = (next: (view: JobView) => JobView) =>
    queries.setQueryData<JobView>(jobKey(id), (view) => view && next(view))
  const follow = async () => {
    try {
      const next = await oneJob(id)
      let newest = true
      shown((view) => {
        // another reading, or a line struck out, may have overtaken this answer
        newest = view.behind !== undefined && next.ledger.length >= view.ledger.length
        return newest ? next : view
      })
      if (newest) onView(next)
      void queries.invalidateQueries({ queryKey: ['jobs'] })
    } catch {
      shown((view) => (view.behind ? { ...view, behind: 'failed' } : view))
    }
  }
  return useMutation({
    // an older view still on its way must not take the reading off the screen again
    onMutate: () => queries.cancelQueries({ queryKey: jobKey(id) }),
    mutationFn: async (body: Reading) => {
      const me = queries.getQueryData<Here>(['here'])?.me
      if (!me) {
        who.ask()
        throw new Refused({ message: 'Say who you are first.', findings: [] }, 401)
      }
      return send(await put(id, { ...body, taken: new Date().toISOString() }, me.id, me.name))
    },
    onSuccess: (taken) => {
      shown((view) => withTaken(view, taken))
      onTaken(taken)
      void follow()
    },
  })
}

/** The job as it was, with the reading in its ledger: what follows from it is still to come. */
function withTaken(view: JobView, taken: Taken): JobView {
  return {
    ...view,
    behind: 'working',
    case: { ...view.case, readings: [...view.case.readings.slice(0, taken.place), taken.reading] },
    ledger: [...view.ledger.slice(0, taken.place), taken.words],
    written: [...view.written.slice(0, taken.place), taken.written],
    noted: withNoted(view.noted, taken),
    verdict: { ...view.verdict, judged: [...view.verdict.judged.slice(0, taken.place), taken.judged] },
  }
}

/** The reading stands at its point at once; what it is compared with is still to come. */
function withNoted(noted: JobView['noted'], { place, words, reading }: Taken): JobView['noted'] {
  const point = words.point
  if (!point || ('of' in reading && reading.of)) return noted
  const there = noted.find((item) => item.point === point) ?? { point, own: null, beside: null, whose: '' }
  return [...noted.filter((item) => item.point !== point), { ...there, own: place }]
}

export function useCustomer(id: number) {
  return useQuery({
    queryKey: ['customer', id],
    queryFn: () =>
      answered<Schemas['CustomerData']>(
        client.GET('/api/jobs/{number}/customer', { params: { path: { number: id } } }),
      ),
  })
}

export function useKeepCustomer(id: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schemas['CustomerChange']) =>
      answered<Schemas['CustomerData']>(
        client.PATCH('/api/jobs/{number}/customer', { params: { path: { number: id } }, body }),
        'writing',
      ),
    onSuccess: (kept) => queries.setQueryData(['customer', id], kept),
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

export function useStrike(id: number) {
  return useJobChange(id, ({ place, reason }: { place: number; reason: string }) =>
    answered<JobView>(
      client.POST('/api/jobs/{number}/readings/{place}/strike', {
        params: { path: { number: id, place } },
        body: { reason },
      }),
      'writing',
    ),
  )
}

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

/** A body that is the picture itself. */
const asPicture = (picture: Blob) => ({
  body: picture as unknown as string,
  bodySerializer: (body: unknown) => body as Blob,
  headers: { 'Content-Type': picture.type || 'image/jpeg' },
})

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

/** What lies ahead of a job; asked for once its newest view is on screen. */
export function useForecast(view: JobView) {
  const stands = [view.ledger.length, view.verdict.confidence, view.verdict.next?.id, view.case.style]
  return useQuery({
    queryKey: ['forecast', view.id, ...stands],
    enabled: !view.behind,
    placeholderData: (before: Schemas['Forecast'] | undefined) => before,
    queryFn: () =>
      answered<Schemas['Forecast']>(
        client.GET('/api/jobs/{number}/forecast', { params: { path: { number: view.id } } }),
      ),
  })
}

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
