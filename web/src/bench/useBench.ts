import { useCallback, useEffect, useReducer, useState } from 'react'
import { useLocation } from 'react-router'
import type { JobView, Probe, Taken } from '../api/client'
import { useAddReading } from '../api/readings'
import { useChangeJob, type useJob, useStand } from '../api/jobs'
import { Waits } from '../api/sending'
import { keep, kept } from '../shared/browserStore'
import { typing } from '../shared/Keys'
import { dial } from '../shared/vocabulary'
import { type Action, besideReading, type Draft, EMPTY, type Measure, reduce, stoodBy, toReading } from './draft'
import { KINDS } from './measures'

interface KeptDraft {
  draft: Draft
  /** How many ledger lines there were: a newer ledger proposes afresh. */
  readings: number
}

/** The number goes up when a draft of the form before could not be read any more. */
const draftKey = (job: number) => `draft4-${job}`

export type Retry = ReturnType<typeof useJob>['refetch']

/** The reading that a view proposes next. */
const proposed = (view: JobView): Probe | null => view.verdict.next?.reading ?? null

function firstDraft(view: JobView): Draft {
  const saved = kept<KeptDraft>(draftKey(view.id))
  if (saved?.readings === view.ledger.length) return { ...EMPTY, ...saved.draft }
  const last = [...view.case.readings].reverse().find((item) => !item.struck && 'key' in item && item.key)
  const stood = { ...EMPTY.stood, ...(last ? stoodBy(last) : {}) }
  return reduce({ ...EMPTY, stood }, { type: 'propose', probe: proposed(view) }, view.choices)
}

/** The reading being laid out: kept in this browser across a reload, and laid out anew where a page before has asked for one. */
function useDraft(view: JobView) {
  const { choices } = view
  const [draft, dispatch] = useReducer((was: Draft, action: Action) => reduce(was, action, choices), view, firstDraft)
  const wanted = (useLocation().state as { probe?: Probe } | null)?.probe
  useEffect(() => {
    if (wanted) dispatch({ type: 'propose', probe: wanted })
  }, [wanted])
  const count = view.ledger.length
  useEffect(() => {
    if (!view.behind) keep(draftKey(view.id), { draft, readings: count } satisfies KeptDraft)
  }, [draft, view.id, view.behind, count])
  return [draft, dispatch] as const
}

/** What a colleague adds to the job shows here, too. */
function useColleagues(view: JobView, retry: Retry, follow: (next: JobView) => void) {
  const stand = useStand(view)
  useEffect(() => {
    if (stand === undefined || view.behind || stand <= view.entries) return
    void retry().then(({ data }) => {
      if (data) follow(data)
    })
  }, [stand, view.entries, view.behind, retry, follow])
}

/** The keyboard's letters for the instruments. */
const measureOf = (code: string) =>
  (Object.keys(KINDS) as Measure[]).find((measure) => code === `Key${dial(measure).letter.toUpperCase()}`)

function useBenchKeys(view: JobView, dispatch: (action: Action) => void) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (typing(event) || event.ctrlKey || event.metaKey) return
      const measure = measureOf(event.code)
      if (measure) {
        event.preventDefault()
        dispatch({ type: 'measure', measure })
      }
      if (event.code === 'KeyN' && !view.behind) dispatch({ type: 'propose', probe: proposed(view) })
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [view, dispatch])
}

/** Take what the meter is laid out for, and what was read beside it. */
function useTaking(view: JobView, draft: Draft, dispatch: (action: Action) => void, onShow: (place: number) => void) {
  const [sending, setSending] = useState(false)
  const follow = (next: JobView) => dispatch({ type: 'follow', probe: proposed(next) })
  const taken = ({ place }: Taken) => {
    setSending(false)
    onShow(place)
    dispatch({ type: 'taken' })
  }
  const add = useAddReading(view.id, taken, follow)
  const take = (value?: string) => {
    if (sending) return
    setSending(true)
    const now = value === undefined ? draft : { ...draft, value }
    const other = besideReading(now, view.choices.state)
    const failed = (error: Error) => {
      setSending(false)
      if (error instanceof Waits) dispatch({ type: 'taken' })
    }
    add.mutate(toReading(now, view.choices.state), {
      onError: failed,
      onSuccess: () => {
        if (other) add.mutate(other, { onError: failed })
      },
    })
  }
  return { take, sending, error: add.error instanceof Waits ? null : add.error }
}

/** All that the bench of one job does: the draft, readings taken at the meter and elsewhere, changes of what is known. */
export function useBench(view: JobView, retry: Retry) {
  const [draft, dispatch] = useDraft(view)
  const [shown, setShown] = useState<number | null>(null)
  const follow = useCallback((next: JobView) => dispatch({ type: 'follow', probe: proposed(next) }), [dispatch])
  const taking = useTaking(view, draft, dispatch, setShown)
  // noted from elsewhere than the meter: what stands there stays
  const beside = useAddReading(view.id, ({ place }) => setShown(place), follow)
  const change = useChangeJob(view.id, follow)
  const touch = useCallback((point: string) => dispatch({ type: 'touch', point }), [dispatch])
  useColleagues(view, retry, follow)
  useBenchKeys(view, dispatch)
  return { draft, dispatch, shown, setShown, follow, taking, beside, change, touch }
}
