import { who } from '../people/who'
import { put } from '../shared/outbox'
import { Refused, answered, client, type JobView, type Reading, type Schemas, type Taken } from './client'
import { jobKey, oneJob, useJobChange } from './jobs'
import { type Here } from './people'
import { send } from './sending'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

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
