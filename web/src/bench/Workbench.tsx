import { useCallback, useEffect, useReducer, useState } from 'react'
import { Link, useLocation, useParams } from 'react-router'
import type { JobView, Probe, Taken } from '../api/client'
import { Waits } from '../api/sending'
import { useAddReading, useChangeJob, useJob, useStand } from '../api/jobs'
import { Segmented } from 'antd'
import { KINDS } from './measures'
import { type Action, begun, besideReading, type Draft, EMPTY, type Measure, reduce, stoodBy, toReading } from './draft'
import { keep, kept } from '../shared/browserStore'
import { Boundary } from '../shared/Boundary'
import { CircuitBoard } from './CircuitBoard'
import { BenchSide } from './BenchSide'
import { Intake } from './Intake'
import { JobProgress } from '../shared/JobProgress'
import { Ledger } from './Ledger'
import { WaitingLines } from './WaitingLines'
import { Corner } from '../shared/Corner'
import { Meter } from './Meter'
import { Problem } from '../shared/Problem'
import { typing } from '../shared/Keys'
import { Writers } from '../people/Writers'
import { dial } from '../shared/vocabulary'

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

/** The keyboard's letters for the instruments. */
const measureOf = (code: string) =>
  (Object.keys(KINDS) as Measure[]).find((measure) => code === `Key${dial(measure).letter.toUpperCase()}`)

/** What a phone shows of the bench, one at a time. */
type BenchTab = 'measure' | 'drawing' | 'could-be' | 'code' | 'ledger'
const TABS: { value: BenchTab; label: string }[] = [
  { value: 'measure', label: 'Measure' }, { value: 'drawing', label: 'Drawing' }, { value: 'could-be', label: 'Could be' },
  { value: 'code', label: 'Code' }, { value: 'ledger', label: 'Ledger' },
] // prettier-ignore

interface Kept {
  draft: Draft
  /** How many ledger lines there were: a newer ledger proposes afresh. */
  readings: number
}

/** The number goes up when a draft of the form before could not be read any more. */
const draftKey = (job: number) => `draft4-${job}`

function firstDraft(view: JobView): Draft {
  const saved = kept<Kept>(draftKey(view.id))
  if (saved?.readings === view.ledger.length) return { ...EMPTY, ...saved.draft }
  const last = [...view.case.readings].reverse().find((item) => !item.struck && 'key' in item && item.key)
  const stood = { ...EMPTY.stood, ...(last ? stoodBy(last) : {}) }
  return reduce({ ...EMPTY, stood }, { type: 'propose', probe: view.verdict.next?.reading ?? null }, view.choices)
}

function Bench({ view, retry }: { view: JobView; retry: ReturnType<typeof useJob>['refetch'] }) {
  const { choices } = view
  const [draft, dispatch] = useReducer((was: Draft, action: Action) => reduce(was, action, choices), view, firstDraft)
  const [shown, setShown] = useState<number | null>(null)
  const [tall, setTall] = useState(false)
  const [tab, setTab] = useState<BenchTab>('measure')
  const touch = useCallback((point: string) => dispatch({ type: 'touch', point }), [])
  const follow = (next: JobView) => dispatch({ type: 'follow', probe: next.verdict.next?.reading ?? null })
  const wanted = (useLocation().state as { probe?: Probe } | null)?.probe
  useEffect(() => {
    if (wanted) dispatch({ type: 'propose', probe: wanted })
  }, [wanted])
  const stand = useStand(view)
  useEffect(() => {
    if (stand === undefined || view.behind || stand <= view.entries) return
    void retry().then(({ data }) => data && dispatch({ type: 'follow', probe: data.verdict.next?.reading ?? null }))
  }, [stand, view.entries, view.behind, retry])
  const [sending, setSending] = useState(false)
  const taken = ({ place }: Taken) => {
    setSending(false)
    setShown(place)
    dispatch({ type: 'taken' })
  }
  const add = useAddReading(view.id, taken, follow)
  // noted from elsewhere than the meter: what stands there stays
  const beside = useAddReading(view.id, ({ place }) => setShown(place), follow)
  const change = useChangeJob(view.id, follow)
  const count = view.ledger.length

  useEffect(() => {
    if (!view.behind) keep(draftKey(view.id), { draft, readings: count } satisfies Kept)
  }, [draft, view.id, view.behind, count])

  const take = (value?: string) => {
    if (sending) return
    setSending(true)
    const now = value === undefined ? draft : { ...draft, value }
    const other = besideReading(now, choices.state)
    const failed = (error: Error) => {
      setSending(false)
      if (error instanceof Waits) dispatch({ type: 'taken' })
    }
    add.mutate(toReading(now, choices.state), {
      onError: failed,
      onSuccess: () => other && add.mutate(other, { onError: failed }),
    })
  }
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (typing(event) || event.ctrlKey || event.metaKey) return
      const measure = measureOf(event.code)
      if (measure) {
        event.preventDefault()
        dispatch({ type: 'measure', measure })
      }
      if (event.code === 'KeyN' && !view.behind)
        dispatch({ type: 'propose', probe: view.verdict.next?.reading ?? null })
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [view])
  const latest = shown === null ? undefined : view.verdict.judged.find((item) => item.reading === shown)

  return (
    <main className={`bench on-${tab}${tall ? ' tall' : ''}`}>
      <header className="bench-head">
        <Link to="/" className="quiet" aria-label="All jobs">
          ← Jobs
        </Link>
        <h1>
          <span className="figure">{view.case.codes.map((item) => item.code).join(' ')}</span> {view.case.vehicle.label}
          <span className="where">{view.where}</span>
        </h1>
        <JobProgress view={view} />
        <Intake view={view} />
        <Link to={`/jobs/${view.id}/mend`} className="quiet">
          Mend
        </Link>
        <Link to={`/jobs/${view.id}/sheet`} className="quiet">
          Sheet
        </Link>
        <Corner />
      </header>
      <Segmented
        block
        className="bench-tabs"
        aria-label="On this screen"
        value={tab}
        onChange={setTab}
        options={TABS}
      />
      <section className="bench-board" aria-label="The circuit">
        <Boundary what="The drawing" at={view}>
          <CircuitBoard view={view} draft={draft} onTouch={touch} shown={shown} />
        </Boundary>
      </section>
      <section className="bench-meter" aria-label="The meter">
        <Boundary what="The meter" at={view}>
          <Writers>
            <Meter
              view={view}
              draft={draft}
              dispatch={dispatch}
              onTake={take}
              sending={sending}
              busy={sending || (view.behind === 'working' && !begun(draft))}
              error={add.error instanceof Waits ? null : add.error}
              judged={latest}
              shown={shown === null ? undefined : view.ledger[shown]}
            />
          </Writers>
        </Boundary>
      </section>
      <BenchSide
        view={view}
        draft={draft}
        problem={change.error}
        onRetry={() => void retry().then(({ data }) => data && follow(data))}
        onStyle={(style) => change.mutate({ style })}
        onPick={(probe) => dispatch({ type: 'propose', probe })}
        onCannot={(reading, reason) =>
          change.mutate((now) => ({ cannot: [...(now.case.cannot ?? []), { reading, reason }] }))
        }
        onBack={(reading) =>
          change.mutate((now) => ({ cannot: (now.case.cannot ?? []).filter((item) => item.reading !== reading) }))
        }
        onOwn={() => dispatch({ type: 'own' })}
        onVoltage={(system_voltage) => change.mutate({ vehicle: { system_voltage } })}
        onAct={(reading) => beside.mutate(reading)}
      />
      <section className="bench-ledger" aria-label="Ledger">
        <Boundary what="The ledger" at={view}>
          <WaitingLines view={view} />
          <Ledger
            view={view}
            onShow={setShown}
            onAgain={(reading) => beside.mutate(reading)}
            shown={shown}
            tall={tall}
            onTall={setTall}
          />
        </Boundary>
      </section>
    </main>
  )
}
