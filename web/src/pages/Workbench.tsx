import { useCallback, useEffect, useReducer, useState } from 'react'
import { Link, useParams } from 'react-router'
import type { JobView, Taken } from '../api/client'
import { useAddReading, useChangeJob, useJob } from '../api/jobs'
import { type Action, begun, type Draft, EMPTY, type Measure, reduce, toReading } from '../model/draft'
import { keep, kept } from '../model/kept'
import { Boundary } from '../parts/Boundary'
import { CircuitBoard } from '../parts/CircuitBoard'
import { CodeCard } from '../parts/CodeCard'
import { Ledger } from '../parts/Ledger'
import { LightSwitch } from '../parts/LightSwitch'
import { Meter } from '../parts/Meter'
import { NextStep } from '../parts/NextStep'
import { Problem } from '../parts/Problem'
import { Suspects } from '../parts/Suspects'
import { typing } from '../parts/Keys'

export function Workbench() {
  const id = Number(useParams()['id'])
  const job = useJob(id)
  if (job.error && !job.data) {
    return (
      <main className="start">
        <Problem error={job.error} />
        <Link to="/">Back to the jobs</Link>
      </main>
    )
  }
  if (!job.data) return <p className="muted waiting">Working out what this circuit would show…</p>
  return <Bench key={id} view={job.data} retry={job.refetch} />
}

const INSTRUMENT_KEYS: Record<string, Measure> = {
  v: 'voltage', o: 'resistance', l: 'lamp', a: 'current', s: 'scope', c: 'scan', r: 'trace', i: 'inspect', d: 'act',
} // prettier-ignore

interface Kept {
  draft: Draft
  /** How many ledger lines there were: a newer ledger proposes afresh. */
  readings: number
}

/** The number goes up when a draft of the form before could not be read any more. */
const draftKey = (job: number) => `draft2-${job}`

function firstDraft(view: JobView): Draft {
  const saved = kept<Kept>(draftKey(view.id))
  if (saved?.readings === view.ledger.length) return { ...EMPTY, ...saved.draft }
  return reduce(EMPTY, { type: 'propose', probe: view.verdict.next?.reading ?? null }, view.choices)
}

function Bench({ view, retry }: { view: JobView; retry: ReturnType<typeof useJob>['refetch'] }) {
  const { choices } = view
  const [draft, dispatch] = useReducer((was: Draft, action: Action) => reduce(was, action, choices), view, firstDraft)
  const [shown, setShown] = useState<number | null>(null)
  const touch = useCallback((point: string) => dispatch({ type: 'touch', point }), [])
  const propose = (next: JobView) => dispatch({ type: 'propose', probe: next.verdict.next?.reading ?? null })
  const follow = (next: JobView) => dispatch({ type: 'follow', probe: next.verdict.next?.reading ?? null })
  const [sending, setSending] = useState(false)
  const taken = ({ place }: Taken) => {
    setSending(false)
    setShown(place)
    dispatch({ type: 'taken' })
  }
  const add = useAddReading(view.id, taken, follow)
  const change = useChangeJob(view.id, propose)
  const count = view.ledger.length

  useEffect(() => {
    if (!view.behind) keep(draftKey(view.id), { draft, readings: count } satisfies Kept)
  }, [draft, view.id, view.behind, count])

  const take = (value?: string) => {
    if (sending) return
    setSending(true)
    add.mutate(toReading(value === undefined ? draft : { ...draft, value }, choices.state), { onError: () => setSending(false) })
  }
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (typing(event) || event.ctrlKey || event.metaKey) return
      const measure = INSTRUMENT_KEYS[event.key.toLowerCase()]
      if (measure) {
        event.preventDefault()
        dispatch({ type: 'measure', measure })
      }
      if (event.key.toLowerCase() === 'n' && !view.behind) dispatch({ type: 'propose', probe: view.verdict.next?.reading ?? null })
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [view])
  const latest = shown === null ? undefined : view.verdict.judged.find((item) => item.reading === shown)

  return (
    <main className="bench">
      <header className="bench-head">
        <Link to="/" className="quiet" aria-label="All jobs">
          ← Jobs
        </Link>
        <h1>
          <span className="figure">{view.case.codes.map((item) => item.code).join(' ')}</span> {view.case.vehicle.label}
        </h1>
        <span className="where">{view.where}</span>
        <Link to={`/jobs/${view.id}/sheet`} className="quiet">
          Sheet
        </Link>
        <LightSwitch />
      </header>
      <aside className="bench-left" aria-label="What the code says">
        <Boundary what="What the code says" at={view}><CodeCard job={view.id} codes={view.codes} primary={view.primary} where={view} kind={view.verdict.family_why ?? ''} /></Boundary>
      </aside>
      <section className="bench-board" aria-label="The circuit">
        <Boundary what="The drawing" at={view}><CircuitBoard view={view} draft={draft} onTouch={touch} shown={shown} /></Boundary>
      </section>
      <section className="bench-meter" aria-label="The meter">
        <Boundary what="The meter" at={view}><Meter
          view={view}
          draft={draft}
          dispatch={dispatch}
          onTake={take}
          sending={sending}
          busy={sending || (view.behind === 'working' && !begun(draft))}
          error={add.error}
          judged={latest}
          shown={shown === null ? undefined : view.ledger[shown]}
        /></Boundary>
      </section>
      <aside className="bench-right">
        <Boundary what="The next step" at={view}><NextStep
          onRetry={() => void retry().then(({ data }) => data && follow(data))}
          view={view}
          onStyle={(style) => change.mutate({ style })}
          onPick={(probe) => dispatch({ type: 'propose', probe })}
          onCannot={(reading, reason) => change.mutate((now) => ({ cannot: [...(now.case.cannot ?? []), { reading, reason }] }))}
          onBack={(reading) => change.mutate((now) => ({ cannot: (now.case.cannot ?? []).filter((item) => item.reading !== reading) }))}
          problem={change.error}
          onOwn={() => dispatch({ type: 'set', change: { own: true, lead: 'red' } })}
          draft={draft}
        /></Boundary>
        <Boundary what="What it could be" at={view}><Suspects view={view} /></Boundary>
      </aside>
      <section className="bench-ledger" aria-label="Ledger">
        <Boundary what="The ledger" at={view}><Ledger view={view} onShow={setShown} shown={shown} /></Boundary>
      </section>
    </main>
  )
}
