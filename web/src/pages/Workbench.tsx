import { useCallback, useEffect, useReducer, useState } from 'react'
import { Link, useParams } from 'react-router'
import type { JobView, Taken } from '../api/client'
import { useAddReading, useChangeJob, useJob } from '../api/jobs'
import { begun, type Draft, EMPTY, fromProbe, type Measure, reduce, toReading } from '../model/draft'
import { keep, kept } from '../model/kept'
import { addressWords } from '../model/words'
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

function firstDraft(view: JobView): Draft {
  const saved = kept<Kept>(`draft-${view.id}`)
  if (saved?.readings === view.ledger.length) return { ...EMPTY, ...saved.draft }
  return view.verdict.next ? fromProbe(view.verdict.next.reading) : { ...EMPTY, own: true }
}

function Bench({ view, retry }: { view: JobView; retry: ReturnType<typeof useJob>['refetch'] }) {
  const [draft, dispatch] = useReducer(reduce, view, firstDraft)
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
    if (!view.behind) keep(`draft-${view.id}`, { draft, readings: count } satisfies Kept)
  }, [draft, view.id, view.behind, count])

  const take = (value?: string) => {
    if (sending) return
    setSending(true)
    add.mutate(toReading(value === undefined ? draft : { ...draft, value }), { onError: () => setSending(false) })
  }
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (typing(event) || event.ctrlKey || event.metaKey) return
      const measure = INSTRUMENT_KEYS[event.key.toLowerCase()]
      if (measure) {
        event.preventDefault()
        dispatch({ type: 'measure', measure, scans: view.choices.scans })
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
        <span className="where">{addressWords(view.address)}</span>
        <Link to={`/jobs/${view.id}/sheet`} className="quiet">
          Sheet
        </Link>
        <LightSwitch />
      </header>
      <aside className="bench-left" aria-label="What the code says">
        <CodeCard job={view.id} codes={view.codes} address={view.address} place={view.place} />
      </aside>
      <section className="bench-board" aria-label="The circuit">
        <CircuitBoard view={view} draft={draft} onTouch={touch} shown={shown} />
      </section>
      <section className="bench-meter" aria-label="The meter">
        <Meter
          view={view}
          draft={draft}
          dispatch={dispatch}
          onTake={take}
          sending={sending}
          busy={sending || (view.behind === 'working' && !begun(draft))}
          error={add.error}
          judged={latest}
          shown={shown === null ? undefined : view.ledger[shown]}
        />
      </section>
      <aside className="bench-right">
        <NextStep
          onRetry={() => void retry().then(({ data }) => data && follow(data))}
          view={view}
          onStyle={(style) => change.mutate({ style })}
          onPick={(probe) => dispatch({ type: 'propose', probe })}
          onCannot={(reading, reason) => change.mutate({ cannot: [...(view.case.cannot ?? []), { reading, reason }] })}
          onBack={(reading) => change.mutate({ cannot: (view.case.cannot ?? []).filter((item) => item.reading !== reading) })}
          problem={change.error}
          onOwn={() => dispatch({ type: 'set', change: { own: true, lead: 'red' } })}
          draft={draft}
        />
        <Suspects view={view} />
      </aside>
      <section className="bench-ledger" aria-label="Ledger">
        <Ledger view={view} onShow={setShown} shown={shown} />
      </section>
    </main>
  )
}
